import { readFileSync } from 'node:fs';
import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { exportMidi, openDemo, readWithMido, selectTrack, setSlider, type MidoNote } from './support';

const TRUTH = JSON.parse(readFileSync('app/public/demo/night-ferry.truth.json', 'utf8')) as {
  ppq: number;
  bpm: number;
  tracks: { name: string; lagMs: number; swing: number; lines: number[]; wild: number[] }[];
};
const PLAYED = readWithMido(readFileSync('app/public/demo/night-ferry.mid')).notes;

/** Notes of one demo track in the exported file, in the order of the take; ticks at 960 PPQ. */
async function exported(page: Page, track: number): Promise<MidoNote[]> {
  const { notes } = readWithMido(await exportMidi(page, 'corrected'));
  return notes.filter((n) => n.track === track);
}
const played = (track: number) =>
  PLAYED.filter((n) => n.track === track).map((n) => ({ ...n, start: n.start * 2, end: n.end * 2 }));
const byStart = (notes: readonly MidoNote[]) => [...notes].sort((a, b) => a.start - b.start || a.pitch - b.pitch);

async function analysed(page: Page): Promise<void> {
  await expect(page.getByText('typical miss', { exact: true })).toBeVisible({ timeout: 20_000 });
}
const roll = async (page: Page) => {
  const box = await page.locator('es-timing-view').boundingBox();
  if (!box) throw new Error('The roll is not there.');
  return box;
};
async function drag(page: Page, from: [number, number], to: [number, number]): Promise<void> {
  await page.mouse.move(...from);
  await page.mouse.down();
  await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2, { steps: 3 });
  await page.mouse.move(...to, { steps: 3 });
  await page.mouse.up();
}

test.describe('the five players put right, as a newcomer would', () => {
  /** Shares of notes on their true line, the wild ones counted; 3 ms are 11 ticks. */
  const onTruth = (notes: readonly MidoNote[], track: number) => {
    const { lines } = TRUTH.tracks[track - 1];
    const now = byStart(notes);
    const wanted = [...lines].sort((a, b) => a - b);
    return now.filter((n, i) => Math.abs(n.start - wanted[i] * 2) <= 6).length / now.length;
  };

  for (const [track, name] of [
    [1, /Marimba/],
    [2, /Upright bass/],
    [3, /Brush kit/],
    [4, /Electric piano/],
    [5, /Clarinet/],
  ] as const) {
    test(`${name.source}: take the lag away, take what fits`, async ({ page }) => {
      await openDemo(page);
      await selectTrack(page, name);
      await analysed(page);
      const takeAway = page.locator('es-fits-panel').getByRole('button', { name: 'Take it away' });
      if (await takeAway.isVisible()) await takeAway.click();
      await page.locator('es-fits-panel li button').first().click();
      await expect(page.getByText(/notes move, typically/)).toBeVisible();
      expect(onTruth(await exported(page, track), track)).toBeGreaterThanOrEqual(0.99);
      const lag = await page.locator('es-lag-stage').innerText();
      const found = /no\s+lag/.test(lag)
        ? 0
        : Number(/([\d.]+) ms/.exec(lag)?.[1]) * (lag.includes('earliness') ? -1 : 1);
      expect(Math.abs(found - TRUTH.tracks[track - 1].lagMs)).toBeLessThan(2);
    });
  }
});

test('selected notes can be quantized alone, pinned, left as played and given back', async ({ page }) => {
  await openDemo(page);
  const box = await roll(page);
  await drag(page, [box.x + 75, box.y + 40], [box.x + 200, box.y + 390]);
  const count = Number(/(\d+) notes selected/.exec(await page.locator('.selection').innerText())?.[1]);
  expect(count).toBeGreaterThan(4);
  await page.keyboard.press('q');
  await expect(page.getByRole('button', { name: `Select ${count} quantize` })).toBeVisible();
  let notes = await exported(page, 1);
  const moved = notes.filter((n) => !played(1).some((p) => p.start === n.start && p.pitch === n.pitch));
  expect(moved.length).toBeGreaterThan(0);
  expect(moved.length).toBeLessThanOrEqual(count);
  expect(moved.every((n) => n.start % 240 === 0)).toBe(true);
  await page.keyboard.press('p');
  await expect(page.getByRole('button', { name: `Select ${count} pinned` })).toBeVisible();
  await page.keyboard.press('a');
  await expect(page.getByRole('button', { name: `Select ${count} as played` })).toBeVisible();
  expect(byStart(await exported(page, 1))).toEqual(byStart(played(1)));
  await page.keyboard.press('u');
  await expect(page.getByRole('button', { name: /Select .* as played/ })).toHaveCount(0);
  await page.keyboard.press('o');
  await expect(page.getByText(`own settings, ${count} notes`)).toBeVisible();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  notes = await exported(page, 1);
  expect(notes.filter((n) => n.start % 240 === 0).length).toBeLessThan(notes.length / 2);
  await page.getByRole('button', { name: '← whole part' }).click();
  await expect(page.getByRole('switch', { name: 'Put starts on lines' })).not.toBeChecked();
});

test('the keyboard alone selects, chooses a grid and nudges', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('application').focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.locator('[aria-live=polite]').filter({ hasText: 'bar 1 beat' })).toHaveCount(1);
  await page.keyboard.press('Control+a');
  await expect(page.getByText('435 notes selected:')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('w');
  await page.keyboard.press('8');
  await page.keyboard.press('t');
  await expect(page.getByRole('button', { name: '1/8T', exact: true })).toBeVisible();
  expect((await exported(page, 1)).every((n) => n.start % 320 === 0)).toBe(true);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  expect(byStart(await exported(page, 1))).toEqual(byStart(played(1)));
});

test('an off-beat line can be dragged in the ruler, and the swing becomes that', async ({ page }) => {
  await openDemo(page);
  await selectTrack(page, /Brush kit/);
  const box = await roll(page);
  // Two and a half bars are shown: a sixteenth is a fortieth of the width; the roll begins 12 px before the bar.
  const sixteenth = (box.width - 64) / 40;
  const offBeat = box.x + 64 + 12 + sixteenth;
  await drag(page, [offBeat, box.y + 12], [offBeat + sixteenth * 0.25, box.y + 12]);
  await expect(page.getByText(/lines swung 6[0-9.]+ %/)).toBeVisible();
  await expect(page.getByRole('switch', { name: 'Put starts on lines' })).not.toBeChecked();
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await analysed(page);
  await page.getByRole('button', { name: 'Lift the swing' }).click();
  await expect(page.getByText(/lines swung 62(\.\d)? %/)).toBeVisible();
  await page.getByRole('button', { name: 'Lift a groove' }).click();
  await expect(page.getByRole('combobox', { name: 'Groove' })).toHaveValue('Lifted from Brush kit');
});

test('bands and marks of the offset lane can be dragged', async ({ page }) => {
  await openDemo(page);
  await setSlider(page.getByRole('slider', { name: 'Tolerance' }), 6);
  const box = await roll(page);
  const lane = box.y + box.height - Math.round(Math.max(120, Math.min(220, box.height * 0.34)));
  const middle = (lane + box.y + box.height) / 2;
  const half = (box.y + box.height - lane) / 2 - 12;
  const perMs = half / 30;
  await drag(page, [box.x + 600, middle + 6 * perMs], [box.x + 600, middle + 12 * perMs]);
  await expect(page.getByRole('button', { name: '12 ms' })).toBeVisible();
  await page
    .getByRole('button', { name: /throughout\. Take it away/ })
    .first()
    .click();
  await expect(page.getByText(/of earliness/)).toBeVisible();
});

test('messages warn, show and offer the way out', async ({ page }) => {
  await openDemo(page);
  await analysed(page);
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await page.getByRole('radio', { name: 'quarter', exact: true }).click();
  const strip = page.locator('es-messages');
  await expect(strip).toContainText(/chords merge with the one before on 1\/4/);
  await strip.getByRole('button', { name: 'Show' }).click();
  await expect(page.getByText(/notes selected:/)).toBeVisible();
  await strip.getByRole('button', { name: 'Try 1/16' }).click();
  await expect(strip).not.toContainText('merge');
  await selectTrack(page, /Clarinet/);
  await expect(strip).toContainText(/First note \d+ ms before its bar/);
  await strip.getByRole('button', { name: 'Move it to the bar' }).click();
  await expect(strip).not.toContainText('before its bar');
  expect(Math.min(...(await exported(page, 5)).map((n) => n.start))).toBe(6 * 3840);
});

test('recipes are previewed, applied, saved, exported and deleted', async ({ page }) => {
  await openDemo(page);
  await analysed(page);
  await page.getByRole('button', { name: 'Recipes' }).click();
  await page.getByRole('button', { name: /^Joined bass/ }).hover();
  await expect(page.getByText('Hold notes until the next chord', { exact: false }).first()).toBeVisible();
  await page.getByRole('button', { name: /^Tight but breathing/ }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: '66 %' })).toBeVisible();
  await expect(page.getByText(/of earliness/)).toBeVisible();
  await page.getByRole('button', { name: 'Recipes' }).click();
  await page.getByLabel('Name of the recipe').fill('Crew standard');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  const download = page.waitForEvent('download');
  await page.locator('li').filter({ hasText: 'Crew standard' }).getByRole('button', { name: 'Export' }).click();
  expect(JSON.parse(readFileSync(await (await download).path(), 'utf8')).name).toBe('Crew standard');
  await page.locator('li').filter({ hasText: 'Crew standard' }).getByRole('button', { name: 'Delete' }).click();
  await expect(page.locator('li').filter({ hasText: 'Crew standard' })).toHaveCount(0);
});

test('kept notes are the part’s own, and the take comes back', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Keep the part as corrected' }).click();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  expect((await exported(page, 1)).every((n) => n.start % 240 === 0)).toBe(true);
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Return the part to the take' }).click();
  expect(byStart(await exported(page, 1))).toEqual(byStart(played(1)));
});

test('every stage is heard in the file: lengths, push, velocity and humanize', async ({ page }) => {
  await openDemo(page);
  await selectTrack(page, /Upright bass/);
  await page.getByRole('button', { name: 'Keep lengths' }).click();
  await page.getByRole('radio', { name: 'legato' }).click();
  let notes = byStart(await exported(page, 2));
  expect(notes.slice(0, -1).every((n, i) => n.end === notes[i + 1].start || n.pitch === notes[i + 1].pitch)).toBe(true);
  await page.getByRole('button', { name: 'push or pull' }).click();
  await setSlider(page.getByRole('slider', { name: 'Earlier · later' }), 10);
  notes = byStart(await exported(page, 2));
  // 10 ms at 112 BPM are 17.92 ticks.
  expect(byStart(played(2)).every((n, i) => Math.abs(notes[i].start - n.start - 17.92) <= 0.5)).toBe(true);
  await page.getByRole('button', { name: 'as played', exact: true }).click();
  await setSlider(page.getByRole('slider', { name: 'Contrast' }), 0);
  expect(new Set((await exported(page, 2)).map((n) => n.velocity)).size).toBe(1);
  await page.getByRole('switch', { name: 'Humanize' }).click();
  const first = byStart(await exported(page, 2)).map((n) => n.start);
  await page.getByTitle('New random numbers').click();
  const second = byStart(await exported(page, 2)).map((n) => n.start);
  expect(second).not.toEqual(first);
  await page.keyboard.press('Control+z');
  expect(byStart(await exported(page, 2)).map((n) => n.start)).toEqual(first);
});

test('a blind compare keeps score and shows nothing', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.keyboard.press('b');
  const strip = page.getByRole('group', { name: 'Blind compare' });
  await strip.getByRole('button', { name: 'the first' }).first().click();
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await strip.getByRole('button', { name: 'the second' }).first().click();
  await expect(page.getByRole('radio', { name: 'Corrected' })).toBeChecked();
  await strip.getByRole('button', { name: 'the second' }).last().click();
  await expect(strip.getByText(/(Yes|No)\. [01] of 1 right\./)).toBeVisible();
  await strip.getByRole('button', { name: 'End' }).click();
  await expect(strip).toHaveCount(0);
});

test('commands are found by name, and the report is saved', async ({ page }) => {
  await openDemo(page);
  await analysed(page);
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox', { name: 'Search commands' }).fill('timing rep');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Timing report, Marimba' })).toBeVisible();
  await expect(page.locator('es-timing-report canvas')).toHaveCount(3);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save as CSV' }).click();
  const csv = readFileSync(await (await download).path(), 'utf8')
    .trim()
    .split('\r\n');
  expect(csv).toHaveLength(436);
  expect(csv[0]).toContain('offset_ms');
  const picture = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save as PNG' }).click();
  expect(
    readFileSync(await (await picture).path())
      .subarray(1, 4)
      .toString(),
  ).toBe('PNG');
});

test('axe finds nothing serious on any view, in both themes', async ({ page }) => {
  await openDemo(page);
  await analysed(page);
  const serious = async () =>
    (await new AxeBuilder({ page }).analyze()).violations
      .filter((v) => v.impact === 'serious' || v.impact === 'critical')
      .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 120)).join(' | ')}`);
  expect(await serious()).toEqual([]);
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await page.getByRole('button', { name: 'Report' }).click();
  await page.getByRole('button', { name: 'Dusk' }).click();
  await expect(page.locator('es-timing-report canvas').first()).toBeVisible();
  expect(await serious()).toEqual([]);
  await page.getByRole('button', { name: 'Commands' }).click();
  expect(await serious()).toEqual([]);
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'All songs' }).click();
  await expect(page.getByRole('heading', { name: 'Songs' })).toBeVisible();
  expect(await serious()).toEqual([]);
});

test('a change is for all the tracks that are chosen, and mixed values are told', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  const tracks = page.getByRole('list', { name: 'Tracks' });
  await tracks.getByRole('button', { name: /^Upright bass/ }).click({ modifiers: ['Shift'] });
  await tracks.getByRole('button', { name: /^Electric piano/ }).click({ modifiers: ['Shift'] });
  await expect(page.getByText('and 2 more: mixed values; a change is for all')).toBeVisible();
  await page.keyboard.press('8');
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  const { notes } = readWithMido(await exportMidi(page, 'corrected'));
  for (const track of [1, 2, 4])
    expect(notes.filter((n) => n.track === track).every((n) => n.start % 480 === 0)).toBe(true);
  expect(
    notes
      .filter((n) => n.track === 5)
      .map((n) => n.start)
      .sort(),
  ).toEqual(
    played(5)
      .map((n) => n.start)
      .sort(),
  );
});

test('grids with tuplets and mixes can be built, and a stage put back', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await page.getByRole('radio', { name: 'n : m' }).click();
  await page.getByRole('spinbutton', { name: 'Notes' }).fill('7');
  await page.getByRole('spinbutton', { name: 'Notes' }).press('Tab');
  await expect(page.getByRole('button', { name: '1/16 7:4', exact: true })).toBeVisible();
  await page.getByRole('radio', { name: 'straight' }).click();
  await page.getByRole('combobox', { name: 'Mixed with' }).selectOption('1/8T');
  await expect(page.getByRole('button', { name: '1/16+1/8T', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Put back: Put starts on lines' }).click();
  await expect(page.getByRole('button', { name: '1/16', exact: true })).toBeVisible();
  expect(byStart(await exported(page, 1))).toEqual(byStart(played(1)));
});

test('one drum of a kit is selected by its key and takes a groove of its own', async ({ page }) => {
  await openDemo(page);
  await selectTrack(page, /Brush kit/);
  const box = await roll(page);
  const lane = Math.round(Math.max(120, Math.min(220, box.height * 0.34)));
  // Three drums are shown in rows of 32 px around the middle; the snare is the one in the middle.
  await page.mouse.click(box.x + 30, box.y + 26 + (box.height - lane - 26) / 2);
  await expect(page.getByText(/notes selected:/)).toBeVisible();
  await page.keyboard.press('o');
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await page.getByRole('combobox', { name: 'Groove' }).selectOption('Late backbeat');
  const notes = await exported(page, 3);
  const snares = notes.filter((n) => n.pitch === 38);
  expect(snares.filter((n) => n.start % 1920 === 960 + 29).length).toBeGreaterThan(snares.length * 0.8);
  const others = (list: readonly MidoNote[]) => byStart(list.filter((n) => n.pitch !== 38));
  expect(others(notes)).toEqual(others(played(3)));
});

test('a note that is dragged snaps to the drawn lines, and a mark in the lane takes its chord along', async ({
  page,
}) => {
  await openDemo(page);
  const box = await roll(page);
  const perTick = (box.width - 64) / (2.5 * 3840);
  // The roll begins 12 px before bar 1; the second note is a C5 or so near 240 ticks, 24 ms early.
  const [, second] = byStart(played(1));
  const x = box.x + 64 + 12 + second.start * perTick + 3;
  const lane = box.y + box.height - Math.round(Math.max(120, Math.min(220, box.height * 0.34)));
  // Find the note by its tip: the row is not known to the test.
  let y = box.y + 40;
  for (; y < lane; y += 6) {
    await page.mouse.move(x, y);
    if (await page.locator('.tip').isVisible()) break;
  }
  await drag(page, [x, y], [x + (480 - second.start) * perTick, y]);
  await expect(page.getByRole('button', { name: 'Select 1 pinned' })).toBeVisible();
  const moved = (await exported(page, 1)).filter((n) => n.start === 480);
  expect(moved.map((n) => n.pitch)).toContain(second.pitch);
  await page.keyboard.press('Control+z');
  await selectTrack(page, /Electric piano/);
  const lines = { x: box.x + 64 + 12 + 24 * 1.792 * perTick, y: 0 };
  const laneBox = { top: lane, height: box.y + box.height - lane };
  const middle = laneBox.top + laneBox.height / 2;
  for (lines.y = middle; lines.y < middle + laneBox.height / 2; lines.y += 4) {
    await page.mouse.move(lines.x, lines.y);
    if (await page.locator('.tip').isVisible()) break;
  }
  await drag(page, [lines.x, lines.y], [lines.x + 40, lines.y]);
  await expect(page.getByRole('button', { name: 'Select 4 pinned' })).toBeVisible();
});
