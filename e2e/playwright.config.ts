import { defineConfig } from '@playwright/test';

const PORT = Number(process.env['E2E_PORT'] ?? 4710);

export default defineConfig({
  testDir: '.',
  testMatch: '*.e2e.ts',
  // Generous, so that a busy machine is slow and not wrong.
  timeout: 180_000,
  expect: { timeout: 20_000 },
  workers: 2,
  // A test that needs another try has found a fault, in the program or in itself.
  retries: 0,
  fullyParallel: true,
  forbidOnly: true,
  reporter: [['line'], ['json', { outputFile: '../test-results/e2e.json' }]],
  outputDir: '../test-results/files',
  use: {
    baseURL: `http://localhost:${PORT}`,
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: 'reduce' },
    // Each test begins in a fresh browser: only those of working offline have the program kept there.
    serviceWorkers: 'block',
    launchOptions: {
      executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        // Windows of the browser's own that no test looks at cost every page a second.
        '--disable-features=WebUIOmniboxPopup,WebUIOmniboxAimPopup,WebUIOmniboxFullPopup,AimEnabled,LensOverlay',
      ],
    },
  },
  webServer: {
    command: 'node dist/run/server/src/main.mjs',
    cwd: '..',
    env: { PORT: String(PORT) },
    url: `http://localhost:${PORT}/`,
    reuseExistingServer: false,
  },
});
