import { chromium, type CDPSession, type Page } from '@playwright/test';
import { LARGE_FILE, importFile, openSongs } from './support';

/**
 * Prints how quick the desk is with a song of 27,000 notes, beside an idle page of the same run.
 * Run it with the server up: `npm run bench:desk`. It measures; it does not judge.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';

interface Frames {
  readonly p95: number;
  readonly longest: number;
}

async function frames(page: Page, act: () => Promise<void>): Promise<Frames> {
  await page.evaluate(() => {
    const w = window as unknown as { times: number[]; long: number[]; run: boolean };
    w.times = [];
    w.long = [];
    w.run = true;
    new PerformanceObserver((list) => w.long.push(...list.getEntries().map((e) => e.duration))).observe({
      type: 'longtask',
    });
    let last = performance.now();
    const step = (now: number) => {
      w.times.push(now - last);
      last = now;
      if (w.run) requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
  });
  await act();
  return page.evaluate(() => {
    const w = window as unknown as { times: number[]; long: number[]; run: boolean };
    w.run = false;
    const sorted = w.times.sort((a, b) => a - b);
    return { p95: sorted[Math.floor(sorted.length * 0.95)], longest: Math.max(0, ...w.long) };
  });
}

async function heap(client: CDPSession): Promise<number> {
  await client.send('HeapProfiler.collectGarbage');
  const { usedSize } = await client.send('Runtime.getHeapUsage');
  return usedSize / 1e6;
}

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const page = await browser.newPage({ baseURL: url, viewport: { width: 1280, height: 800 } });
const client = await page.context().newCDPSession(page);
await openSongs(page);
const idle = await frames(page, () => page.waitForTimeout(2000));
const begin = performance.now();
await importFile(page, LARGE_FILE);
await page.locator('es-timing-view canvas').first().waitFor();
await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
const opened = performance.now() - begin;
await page.waitForTimeout(500);
const box = await page.locator('es-timing-view').boundingBox();
if (!box) throw new Error('The roll is not there.');
await page.mouse.move(box.x + box.width / 2, box.y + 150);

const rows: [string, Frames][] = [['idle page', idle]];
const measure = async (name: string, act: () => Promise<void>) => rows.push([name, await frames(page, act)]);
const times = async (n: number, act: (i: number) => Promise<unknown>) => {
  for (let i = 0; i < n; i++) await act(i);
};
await measure('scroll', () => times(80, () => page.mouse.wheel(120, 0)));
await page.keyboard.down('Control');
await measure('zoom out and in', () => times(80, (i) => page.mouse.wheel(0, i < 40 ? 60 : -60)));
await page.keyboard.up('Control');
for (const name of ['Strength', 'Swing', 'Tolerance']) {
  const slider = await page.getByRole('slider', { name }).boundingBox();
  if (!slider) continue;
  const y = slider.y + slider.height / 2;
  await page.mouse.move(slider.x + slider.width * 0.5, y);
  await page.mouse.down();
  await measure(`drag ${name.toLowerCase()}`, () =>
    times(80, (i) => page.mouse.move(slider.x + slider.width * (0.2 + 0.6 * Math.abs(Math.sin(i / 12))), y)),
  );
  await page.mouse.up();
}
const before = await heap(client);
await times(200, (i) => page.getByRole('slider', { name: 'Strength' }).fill(String(40 + (i % 50))));
const after = await heap(client);

console.log(`27,000 notes from file to painted roll: ${opened.toFixed(0)} ms`);
for (const [name, f] of rows) {
  const ratio = (f.p95 / idle.p95).toFixed(2);
  console.log(
    `${name.padEnd(18)} 95 % of frames ≤ ${f.p95.toFixed(1)} ms (${ratio} × idle), longest task ${f.longest.toFixed(0)} ms`,
  );
}
console.log(`heap after 200 changes: ${before.toFixed(1)} → ${after.toFixed(1)} MB`);
await browser.close();
