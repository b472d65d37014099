import { expect, test, type Page } from '@playwright/test';
import { choose, drag } from './hands';
import {
  byStart,
  exported,
  exportMidi,
  listened,
  openDemo,
  readMidi,
  reload,
  roll,
  selectTrack,
  withoutFileWindows,
  type FileNote,
} from './support';

const MARIMBA = 1;
/** The track that a recording makes in the demo song, and a sixteenth, in ticks of the file. */
const RECORDED = 6;
const STEP = 240;
const MS_A_TICK = 60_000 / 112 / 960;

/** The demo's marimba on its lines, and the practice player with that before them. */
async function practise(page: Page): Promise<void> {
  await openDemo(page);
  await selectTrack(page, 'Marimba');
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.keyboard.press('i');
  await choose(page, 'Input device', 'Practice player');
}

/** Waits until the song is at a beat of a bar, or beyond: a busy page shows not every one. */
async function reached(page: Page, bar: number, beat: number): Promise<void> {
  await page.waitForFunction(
    (wanted) => {
      const [b, q] = (document.querySelector('es-transport .place')?.textContent ?? '').split('.').map(Number);
      return b * 100 + q >= wanted;
    },
    bar * 100 + beat,
    { polling: 30, timeout: 60_000 },
  );
}

/** Records until something is there. */
async function record(page: Page, done: () => Promise<void>): Promise<void> {
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  await done();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Record', exact: true })).toBeVisible();
}

/** How late recorded notes are against the marimba's, each against the nearest of its pitch, in ms. */
function lateness(recorded: readonly FileNote[], meant: readonly FileNote[]): number[] {
  return recorded.map((n) => {
    const near = meant.filter((m) => m.pitch === n.pitch).map((m) => n.start - m.start);
    return near.reduce((best, d) => (Math.abs(d) < Math.abs(best) ? d : best), Infinity) * MS_A_TICK;
  });
}

/** What the page shows as the place in the song: every place once, and how often it went back. */
interface Watched {
  readonly seen: Set<string>;
  rounds: number;
}

const middle = (values: readonly number[]) => [...values].sort((a, b) => a - b)[values.length >> 1];

test('what the practice player plays late is measured, recorded, corrected onto its lines, and undone', async ({
  page,
}) => {
  await practise(page);
  await page.getByRole('button', { name: 'Measure it by tapping' }).click();
  const latency = page.getByRole('group', { name: 'Latency' });
  // It goes on until it is sure, which takes sixty taps or so with a jitter of 12 ms.
  await expect(latency.getByText(/ms late, sure to ±[123]\.\d ms; half of the/)).toBeVisible({ timeout: 60_000 });
  const measured = Number(/([\d.]+) ms late/.exec(await latency.innerText())?.[1]);
  expect(Math.abs(measured - 30)).toBeLessThanOrEqual(3);
  await latency.getByRole('button', { name: 'Discard' }).click();

  await record(page, () => reached(page, 11, 1));
  const before = readMidi(await exportMidi(page, 'corrected'));
  const meant = byStart(await exported(page, MARIMBA));
  const played = byStart(before.notes.filter((n) => n.track === RECORDED));
  expect(played.length).toBeGreaterThan(80);
  const late = lateness(played, meant);
  expect(Math.abs(middle(late) - 30)).toBeLessThanOrEqual(3);
  // The chip says what was found, and the way out takes it away.
  await expect(page.getByText(/(2[7-9]|3[0-3]) ms late throughout/).first()).toBeVisible({ timeout: 30_000 });
  await page
    .getByRole('button', { name: /throughout\. Remove/ })
    .first()
    .click();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  const corrected = byStart(await exported(page, RECORDED));
  const right = lateness(corrected, meant).filter((ms) => Math.abs(ms) < 1);
  expect(right.length / corrected.length).toBeGreaterThanOrEqual(0.99);
  // Undone step by step, the playing is as it was played; one more, and it is gone.
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  expect(readMidi(await exportMidi(page, 'corrected'))).toEqual(before);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  expect(await exported(page, RECORDED)).toHaveLength(0);
});

test('each round of a loop is a take: one is chosen by ear, a stretch of another comes in, and one is kept', async ({
  page,
}) => {
  // Every place that is shown is remembered, and how often it went back: the rounds.
  await page.addInitScript(() => {
    const watched: Watched = { seen: new Set(), rounds: 0 };
    Object.assign(window, { watched });
    let last = '';
    setInterval(() => {
      const place = document.querySelector('es-transport .place')?.textContent ?? '';
      watched.seen.add(place);
      if (place < last && last.startsWith('1.4')) watched.rounds++;
      last = place;
    }, 15);
  });
  await practise(page);
  const r = await roll(page);
  await drag(page, [r.at(0), r.loopY], [r.at(3840), r.loopY]);
  await record(page, async () => {
    await page.waitForFunction(() => (window as unknown as { watched: Watched }).watched.rounds >= 2, undefined, {
      polling: 50,
      timeout: 60_000,
    });
    // The rest of the round is left for a busy page to stop in.
    await reached(page, 1, 3);
  });
  // The playhead is where the song is heard: it never goes beyond the loop.
  const handle = await page.waitForFunction(() => [...(window as unknown as { watched: Watched }).watched.seen]);
  const seen = await handle.jsonValue();
  expect(seen.some((place) => place.startsWith('1.4'))).toBe(true);
  expect(seen.filter((place) => place.startsWith('2'))).toEqual([]);
  const takes = page.getByRole('radiogroup', { name: 'Takes' });
  await expect(takes.getByRole('radio').last()).toBeChecked();
  // A page that was too busy to stop in the third round has begun a fourth.
  await takes.getByRole('radio', { name: 'Take 3' }).click();
  const starts = async () => byStart(await exported(page, RECORDED)).map((n) => n.start);
  const last = await starts();
  expect(last.length).toBeGreaterThan(4);
  await takes.getByRole('radio', { name: 'Take 2' }).click();
  const second = await starts();
  expect(second).not.toEqual(last);
  expect(second.every((t) => t <= 3840)).toBe(true);
  // Round for round the player is as late as it is.
  expect(second.length).toBeGreaterThan(8);
  await page.keyboard.press('Control+a');
  const doing = page.getByRole('group', { name: 'What to do with the takes' });
  await doing.getByRole('button', { name: 'Take 1' }).click();
  const first = await starts();
  expect(first.length).toBeGreaterThan(8);
  expect(first).not.toEqual(second);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  expect(await starts()).toEqual(second);
  await doing.getByRole('button', { name: 'Keep this take, delete the others' }).click();
  await expect(takes).toHaveCount(0);
  expect(await starts()).toEqual(second);
});

test('a tab that is closed while it records loses nothing that was played a second before', async ({
  page,
  context,
}) => {
  await practise(page);
  const address = page.url();
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  await reached(page, 4, 1);
  await page.close({ runBeforeUnload: false });
  const again = await context.newPage();
  await withoutFileWindows(again);
  await again.goto(address);
  await expect(again.getByText(/A recording that was cut off was recovered: \d+ notes/)).toBeVisible();
  const recorded = byStart(await exported(again, RECORDED));
  expect(recorded.length).toBeGreaterThan(20);
  // Nothing comes back twice.
  await reload(again);
  await expect(again.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
  await listened(again);
  expect(byStart(await exported(again, RECORDED))).toEqual(recorded);
});

test('the computer’s keyboard plays in, corrected at once where that is wanted, with the playing kept', async ({
  page,
}) => {
  await openDemo(page);
  await selectTrack(page, 'Marimba');
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.keyboard.press('i');
  await choose(page, 'Input device', 'Computer keyboard');
  await page.getByRole('button', { name: 'correct while recording' }).click();
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  for (const [i, key] of ['z', 'x', 'a', 'q', 'p'].entries()) {
    await reached(page, 2 + i, 1);
    await page.keyboard.down(key);
    await reached(page, 2 + i, 2);
    await page.keyboard.up(key);
  }
  await page.keyboard.press('Shift+R');
  await expect(page.getByRole('button', { name: 'Record', exact: true })).toBeVisible();
  await page.keyboard.press('Space');
  const corrected = byStart(await exported(page, RECORDED));
  // Rows a fourth apart, a semitone from key to key.
  expect(corrected.map((n) => n.pitch)).toEqual([48, 49, 53, 58, 67]);
  expect(corrected.every((n) => n.start % STEP === 0)).toBe(true);
  const played = byStart(readMidi(await exportMidi(page, 'as played')).notes.filter((n) => n.track === RECORDED));
  expect(played.some((n) => n.start % STEP !== 0)).toBe(true);
});
