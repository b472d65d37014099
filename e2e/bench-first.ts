import { chromium, type Page } from '@playwright/test';

/**
 * Prints how long a first visit takes until the demo is painted with what fits it, then how long the analysis takes of
 * the last of three tracks that are chosen in a row, and of notes that were nudged twenty times in a row. Run it with
 * the server up: `npm run bench:first`, with the number of visits behind `--`; each is in a browser of its own. It
 * measures; it does not judge.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const REST_MS = 1500;
const NUDGES = 20;

/** Ms from when it begins until the part at hand is analysed. */
async function untilAnalysed(page: Page, act: () => Promise<void>): Promise<number> {
  const from = performance.now();
  await act();
  await page.getByText('typical miss', { exact: true }).waitFor();
  return performance.now() - from;
}

for (let visit = 0; visit < Number(process.argv[2] ?? 5); visit++) {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  // A browser that has just been started is busy with itself.
  await page.waitForTimeout(REST_MS);
  // The page itself tells: asking it from outside, again and again, would be later by up to half a second.
  await page.addInitScript(() => {
    const mark = (name: string, selector: string) => {
      const look = new MutationObserver(() => {
        if (!document.querySelector(selector)) return;
        look.disconnect();
        requestAnimationFrame(() => setTimeout(() => performance.mark(name)));
      });
      look.observe(document, { subtree: true, childList: true });
    };
    mark('roll', 'es-timing-view canvas');
    mark('fits', 'es-fits-panel li button');
  });
  await page.goto(url);
  await page.waitForFunction(() => performance.getEntriesByName('fits').length > 0);
  const [roll, fits] = await page.evaluate(() =>
    ['roll', 'fits'].map((name) => performance.getEntriesByName(name)[0].startTime),
  );
  console.log(`roll painted after ${roll.toFixed(0)} ms, what fits it after ${fits.toFixed(0)} ms`);
  let workers = 0;
  page.on('worker', () => workers++);
  const tracks = page.getByRole('list', { name: 'Tracks' });
  const chosen = await untilAnalysed(page, async () => {
    for (const name of ['Upright bass', 'Electric piano', 'Clarinet'])
      await tracks.getByRole('button', { name }).first().click();
  });
  await page.locator('es-timing-view').click({ position: { x: 400, y: 200 } });
  await page.keyboard.press('Control+a');
  const nudged = await untilAnalysed(page, async () => {
    for (let i = 0; i < NUDGES; i++) await page.keyboard.press('Alt+ArrowRight');
  });
  console.log(
    `the last of three tracks analysed after ${chosen.toFixed(0)} ms, ` +
      `notes nudged ${NUDGES} times after ${nudged.toFixed(0)} ms; ${workers} workers started`,
  );
  await browser.close();
}
