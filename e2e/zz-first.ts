import { chromium } from '@playwright/test';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
for (let k = 0; k < 4; k++) for (const serviceWorkers of ['allow', 'block'] as const) {
  const context = await browser.newContext({ baseURL: process.env['DESK_URL'] ?? 'http://localhost:4600', viewport: { width: 1280, height: 800 }, serviceWorkers });
  const page = await context.newPage();
  const t = performance.now();
  await page.goto('/');
  await page.locator('es-timing-view canvas').first().waitFor();
  const painted = performance.now() - t;
  await page.locator('es-track-list').getByText(/ms/).nth(4).waitFor();
  console.log(serviceWorkers, 'painted', painted.toFixed(0), 'five chips', (performance.now() - t).toFixed(0));
  await context.close();
}
await browser.close();
