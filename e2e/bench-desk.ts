import { chromium, type CDPSession, type Page } from '@playwright/test';
import { frames, type Frames } from './frames';
import { placeOn } from './hands';
import { longTake } from './long-take';
import { manyTracks } from './many-tracks';
import { LARGE_FILE, importFile, openSongs } from './support';

/**
 * Prints how quick the desk is with a song of 27,000 notes, beside an idle page of the same run.
 * Run it with the server up: `npm run bench:desk`; with a number, `npm run bench:desk -- 27000`, all notes are in one
 * track. It measures; it does not judge.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const inOne = Number(process.argv[2] ?? 0);
const file = inOne > 0 ? { name: 'long.mid', mimeType: 'audio/midi', buffer: longTake(inOne) } : LARGE_FILE;

async function heap(client: CDPSession): Promise<number> {
  await client.send('HeapProfiler.collectGarbage');
  const { usedSize } = await client.send('Runtime.getHeapUsage');
  return usedSize / 1e6;
}

/** The pointer's shape over the picture: it tells what a press does. */
const cursorOf = (page: Page) =>
  page.locator('es-timing-view .canvas').evaluate((e) => (e as HTMLElement).style.cursor);

/** A place on a note's body. */
async function findNote(page: Page, box: { x: number; y: number; width: number; height: number }) {
  for (let y = box.y + 66; y < box.y + box.height * 0.6; y += 5) {
    for (let x = box.x + 120; x < box.x + box.width - 80; x += 4) {
      await page.mouse.move(x, y);
      if ((await cursorOf(page)) === 'move') return [x, y] as const;
    }
  }
  throw new Error('There is no note in view.');
}

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const page = await browser.newPage({ baseURL: url, viewport: { width: 1280, height: 800 } });
const client = await page.context().newCDPSession(page);
await openSongs(page);
const idle = await frames(page, () => page.waitForTimeout(2000));
const begin = performance.now();
await importFile(page, file);
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
  const value = () => page.getByRole('slider', { name, exact: true }).inputValue();
  const [min, max] = name === 'Swing' ? [30, 75] : [10, 55];
  const [from, to] = [await placeOn(page, name, min), await placeOn(page, name, max)];
  await page.mouse.move(...(await placeOn(page, name, Number(await value()))));
  await page.mouse.down();
  const seen = new Set<string>();
  await measure(`drag ${name.toLowerCase()}`, () =>
    times(80, async (i) => {
      const share = Math.abs(Math.sin(i / 12));
      await page.mouse.move(from[0] + (to[0] - from[0]) * share, from[1]);
      if (i % 8 === 0) seen.add(await value());
    }),
  );
  await page.mouse.up();
  // A picture that stands still is quick too: what was driven must have changed.
  if (seen.size < 5) throw new Error(`The ${name} slider did not follow the pointer.`);
}
const note = await findNote(page, box);
// The first note that is touched is heard, too: the sounds are fetched and made ready meanwhile.
for (const name of ['first note dragged', 'drag a note']) {
  await page.mouse.move(...note);
  await page.mouse.down();
  await measure(name, () => times(80, (i) => page.mouse.move(note[0] + 10 + (i % 30) * 2, note[1])));
  const told = await page.locator('.tip').innerText();
  await page.mouse.up();
  if (!/ms (later|earlier)/.test(told)) throw new Error('The note did not follow the pointer.');
  await page.keyboard.press('Control+z');
  await page.waitForTimeout(1000);
}
// The end of a note, where the pointer says that it resizes.
let end = note[0];
while (end < note[0] + 200 && (await cursorOf(page)) !== 'ew-resize') await page.mouse.move(++end, note[1]);
await page.mouse.down();
await measure('resize a note', () => times(60, (i) => page.mouse.move(end + 6 + (i % 30) * 2, note[1])));
if (!/long$/.test(await page.locator('.tip').innerText())) throw new Error('The end did not follow the pointer.');
await page.mouse.up();
await page.keyboard.press('Control+z');
// A sweep over many: all is shown, and the pointer goes to and fro over it while a key makes louder.
await page.keyboard.press('v');
await page.waitForTimeout(300);
await page.mouse.move(box.x + 80, box.y + 80);
await page.keyboard.down('r');
await measure('sweep over notes', () =>
  times(240, (i) => page.mouse.move(box.x + 80 + i * 2.6, box.y + 190 + Math.sin(i / 3) * 130)),
);
const swept = Number(/^(\d+) notes louder/.exec(await page.locator('.tip').innerText())?.[1] ?? 0);
await page.keyboard.up('r');
if (swept < 100) throw new Error(`Only ${swept} notes were swept.`);
await page.keyboard.press('Control+z');
// Level over all of them, and undo of it.
await page.getByRole('button', { name: 'lanes', exact: true }).click();
await page.getByRole('menuitemcheckbox', { name: 'Velocity' }).click();
await page.keyboard.press('Escape');
await page.locator('.cdk-overlay-backdrop').waitFor({ state: 'detached' });
await page.mouse.click(box.x + 300, box.y + 80);
await page.keyboard.press('Control+a');
const level = await page.locator('es-lane-amount .grip').first().boundingBox();
if (!level) throw new Error('There is no level.');
await page.mouse.move(level.x + 6, level.y + 8);
await page.mouse.down();
await measure('level over all', () => times(60, (i) => page.mouse.move(level.x + 10 + (i % 20) * 2, level.y + 8)));
// “saved” is said only once the step is on the disk. It may be “saving” for less than a frame.
await page.evaluate(() => {
  const status = document.querySelector('es-desk-head [role=status]')!;
  const w = window as unknown as { kept: Promise<number> };
  w.kept = new Promise((done) => {
    let saving = false;
    const watch = new MutationObserver(() => {
      saving ||= status.textContent.includes('saving');
      if (!saving || status.textContent.trim() !== 'saved') return;
      watch.disconnect();
      done(performance.timeOrigin + performance.now());
    });
    watch.observe(status, { characterData: true, childList: true, subtree: true });
  });
});
const dropped = performance.timeOrigin + performance.now();
await page.mouse.up();
const kept = (await page.evaluate(() => (window as unknown as { kept: Promise<number> }).kept)) - dropped;
await page.waitForTimeout(1000);
const title = () => page.getByRole('button', { name: 'Undo' }).getAttribute('title');
const was = await title();
await measure('undo of all', async () => {
  await page.keyboard.press('Control+z');
  await page.waitForTimeout(600);
});
if ((await title()) === was) throw new Error('The level made no step.');
// A chip of a rule over all of them: from the key to the new count.
await page.keyboard.press('Shift+u');
const strip = page.getByRole('region', { name: 'Rules' });
await strip.getByLabel('Action 1, by').click();
const sentence = async () => (await strip.innerText()).replace(/\s+/g, ' ');
const told0 = await sentence();
await measure('rule preview', () =>
  times(12, async (i) => {
    await page.keyboard.press('Control+a');
    await page.keyboard.type(String(10 + i));
    await page.waitForTimeout(150);
  }),
);
if ((await sentence()) === told0) throw new Error('The rule did not follow its chip.');
const ruled = await title();
await measure('rule applied', async () => {
  await strip.getByRole('button', { name: /^Apply to/ }).click();
  await page.waitForTimeout(600);
});
if ((await title()) === ruled) throw new Error('The rule made no step.');
await page.keyboard.press('Escape');
const before = await heap(client);
await page.getByRole('slider', { name: 'Strength', exact: true }).press('Home');
await times(200, (i) => page.keyboard.press(i % 2 ? 'ArrowLeft' : 'ArrowRight'));
const after = await heap(client);

// Eighty tracks.
await page.getByRole('link', { name: 'All songs' }).click();
await importFile(page, { name: 'eighty.mid', mimeType: 'audio/midi', buffer: manyTracks(16) });
await page.locator('es-timing-view canvas').first().waitFor();
await page.waitForTimeout(2000);
await page.keyboard.press('Space');
await page.waitForTimeout(3000);
await page.keyboard.press('Space');
const quiet = await heap(client);
for (let i = 0; i < 50; i++) {
  await page.keyboard.press('Space');
  await page.waitForTimeout(120);
  await page.keyboard.press('Space');
}
await page.waitForTimeout(500);
const played = await heap(client);

console.log(
  `${inOne > 0 ? inOne.toLocaleString('en') : '27,000'} notes from file to painted roll: ${opened.toFixed(0)} ms`,
);
console.log(`level over all, from letting go to “saved”: ${kept.toFixed(0)} ms`);
for (const [name, f] of rows) {
  const ratio = (f.p95 / idle.p95).toFixed(2);
  console.log(
    `${name.padEnd(18)} 95 % of frames ≤ ${f.p95.toFixed(1)} ms (${ratio} × idle), longest task ${f.longest.toFixed(0)} ms`,
  );
}
console.log(`heap over 50 plays of 80 tracks: ${quiet.toFixed(1)} → ${played.toFixed(1)} MB`);
console.log(`heap after 200 changes: ${before.toFixed(1)} → ${after.toFixed(1)} MB`);
await browser.close();
