import { chromium } from '@playwright/test';

/**
 * Prints how long a first visit takes until the demo is painted with what fits it. Run it with the server up:
 * `npm run bench:first`, with the number of visits behind `--`; each is in a browser of its own. It measures; it does
 * not judge.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const REST_MS = 1500;

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
  await browser.close();
}
