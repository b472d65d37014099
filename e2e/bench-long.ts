import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { frames } from './frames';
import { placeOn } from './hands';
import { longTake } from './long-take';
import { exportMidi, importFile, openSongs } from './support';

/**
 * Prints how long one take of very many notes holds the page: opening it, panning and zooming, selecting, nudging, undoing
 * and keeping all of it, and exporting it; and what memory it takes. Run it with the server up:
 * `npm run bench:long -- 200000`. It measures; it does not judge.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const count = Number(process.argv[2] ?? 200_000);

/** Tasks of the page from now on that took longer than 50 ms, as the browser tells them. */
async function watchTasks(page: Page): Promise<void> {
  await page.evaluate(() => {
    const w = window as unknown as { tasks: number[]; watch?: PerformanceObserver };
    w.watch?.disconnect();
    w.tasks = [];
    w.watch = new PerformanceObserver((list) => w.tasks.push(...list.getEntries().map((e) => e.duration)));
    w.watch.observe({ type: 'longtask' });
  });
}

/** @param act may tell what was there after how long */
async function measure(page: Page, name: string, act: (told: (what: string) => Promise<void>) => Promise<unknown>) {
  await watchTasks(page);
  const began = await computed();
  const begin = performance.now();
  const since: string[] = [];
  await act(async (what) => {
    const took = performance.now() - begin;
    since.push(`${what} ${took.toFixed(0)} ms (${((await computed()) - began).toFixed(0)} of it computing)`);
  });
  // Two frames that come without a long task before them: the page is at rest.
  await page.evaluate(
    () =>
      new Promise<void>((done) => {
        let last = performance.now();
        let calm = 0;
        const step = (now: number) => {
          calm = now - last < 60 ? calm + 1 : 0;
          last = now;
          if (calm >= 8) done();
          else requestAnimationFrame(step);
        };
        requestAnimationFrame(step);
      }),
  );
  const took = performance.now() - begin;
  const tasks = await page.evaluate(() => (window as unknown as { tasks: number[] }).tasks);
  const over = tasks.filter((t) => t > 200).length;
  console.log(
    [
      `${name.padEnd(22)} ${took.toFixed(0).padStart(6)} ms`,
      ...since,
      `longest task ${Math.max(0, ...tasks).toFixed(0)} ms`,
      `${over} over 200 ms`,
    ].join(', '),
  );
}

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const page = await browser.newPage({ baseURL: url, viewport: { width: 1280, height: 800 } });
const client = await page.context().newCDPSession(page);
await client.send('Performance.enable', { timeDomain: 'threadTicks' });
/** Processor time that the page's own thread has had, in ms: on a machine that others use too, half of a wait is theirs. */
async function computed(): Promise<number> {
  const { metrics } = await client.send('Performance.getMetrics');
  return 1000 * (metrics.find(({ name }) => name === 'TaskDuration')?.value ?? NaN);
}
await openSongs(page);
const idle = await frames(page, () => page.waitForTimeout(2000));
const take = longTake(count);
// A file on the disk, as a user's is: sending it to the browser would add to the time of opening it.
const folder = mkdtempSync(join(tmpdir(), 'long-'));
const file = join(folder, 'long.mid');
writeFileSync(file, take);
const canvas = page.locator('es-timing-view canvas').first();
await measure(page, 'open', async () => {
  await importFile(page, file);
  await canvas.waitFor({ timeout: 120_000 });
});
await page.waitForTimeout(3000);
const box = await canvas.boundingBox();
if (!box) throw new Error('The roll is not there.');
await page.mouse.click(box.x + box.width / 2, box.y + 40);
const asIdle = async (name: string, act: () => Promise<void>) => {
  const told = await frames(page, act);
  const ratio = (told.p95 / idle.p95).toFixed(2);
  console.log(`${name.padEnd(22)} 95 % of frames ≤ ${told.p95.toFixed(1)} ms, ${ratio} × idle`);
};
const wheel = async (to: (i: number) => readonly [number, number]) => {
  for (let i = 0; i < 60; i++) await page.mouse.wheel(...to(i));
};
await asIdle('pan', () => wheel(() => [120, 0]));
await page.keyboard.down('Control');
await asIdle('zoom out and in', () => wheel((i) => [0, i < 30 ? 60 : -60]));
await page.keyboard.up('Control');
// Looked at from within the page, once a frame: asking from here would take processor time from what is measured.
const saved = () =>
  page.waitForFunction(() =>
    [...document.querySelectorAll('[role=status]')].some(({ textContent }) => textContent.trim() === 'saved'),
  );
/** What Undo and Redo would do, by their titles; null while that is still what it was. */
const titles = (was: string | void) => {
  const both = [...document.querySelectorAll('button')].filter((b) => /^(Undo|Redo)$/.test(b.textContent.trim()));
  const now = both.map(({ title }) => title).join();
  return now === was ? null : now;
};
const tellMemory = async (when: string) => {
  await client.send('HeapProfiler.collectGarbage');
  const { usedSize, backingStorageSize } = await client.send('Runtime.getHeapUsage');
  const bytes = usedSize + backingStorageSize;
  const size = `${(bytes / 1e6).toFixed(0)} MB, ${(bytes / take.length).toFixed(0)} times the file`;
  console.log(`memory ${when}: ${size} of ${(take.length / 1e6).toFixed(1)} MB`);
};
await tellMemory('when it is open');
/** A step is made in turns with the page, and then it is written. One that did nothing would be quick too. */
const step = async (name: string, act: () => Promise<unknown>) => {
  const before = (await page.evaluate(titles)) ?? '';
  await measure(page, name, async (told) => {
    await act();
    await page.waitForFunction(titles, before);
    await told('shown');
    await saved();
    await told('saved');
  });
  await page.waitForTimeout(2000);
};
const strength = page.getByRole('slider', { name: 'Strength', exact: true });
const ends = [await placeOn(page, 'Strength', 10), await placeOn(page, 'Strength', 55)] as const;
await page.mouse.move(...(await placeOn(page, 'Strength', Number(await strength.inputValue()))));
await page.mouse.down();
const values = new Set<string>();
const dragged = await frames(page, async () => {
  for (let i = 0; i < 12; i++) {
    await page.mouse.move(...ends[i % 2]);
    values.add(await strength.inputValue());
  }
});
if (values.size < 2) throw new Error('The slider did not follow the pointer.');
console.log(
  `drag strength: a step is shown after ${dragged.p95.toFixed(0)} ms, longest task ${dragged.longest.toFixed(0)} ms`,
);
await step('let go', () => page.mouse.up());
await measure(page, 'select all', () => page.keyboard.press('Control+a'));
await step('nudge', () => page.keyboard.press('Alt+ArrowRight'));
await measure(page, 'nudge again', async () => {
  await page.keyboard.press('Alt+ArrowRight');
  await saved();
});
await page.waitForTimeout(2000);
await step('undo', () => page.keyboard.press('Control+z'));
await step('redo', () => page.keyboard.press('Control+Shift+z'));
await step('undo again', () => page.keyboard.press('Control+z'));
await step('keep', () => page.keyboard.press('k'));
await measure(page, 'export', async (told) => {
  const made = await exportMidi(page, 'corrected');
  await told(`${(made.length / 1e6).toFixed(1)} MB in`);
});
await tellMemory('after all that');

await browser.close();
rmSync(folder, { recursive: true });
