import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { choose, drag, slide, typeInto } from './hands';
import {
  byStart,
  exported,
  exportMidi,
  listened,
  openDemo,
  played,
  readMidi,
  roll,
  selectTrack,
  type FileNote,
} from './support';

const quantize = (page: Page) => page.getByRole('switch', { name: 'Put starts on lines' });

test('selected notes can be quantized alone, pinned, left as played and given back', async ({ page }) => {
  await openDemo(page);
  const r = await roll(page);
  await drag(page, [r.x + 75, r.top + 4], [r.x + 200, r.laneTop - 6]);
  const count = Number(/(\d+) notes selected/.exec(await page.locator('.selection').innerText())?.[1]);
  expect(count).toBeGreaterThan(4);
  await page.keyboard.press('q');
  await expect(page.getByRole('button', { name: `Select ${count} with own settings` })).toBeVisible();
  let notes = await exported(page, 1);
  const moved = notes.filter((n) => !played(1).some((p) => p.start === n.start && p.pitch === n.pitch));
  expect(moved.length).toBeGreaterThan(0);
  expect(moved.length).toBeLessThanOrEqual(count);
  expect(moved.every((n) => n.start % 240 === 0)).toBe(true);
  await page.keyboard.press('p');
  await expect(page.getByRole('button', { name: `Select ${count} pinned` })).toBeVisible();
  await page.keyboard.press('Shift+A');
  await expect(page.getByRole('button', { name: `Select ${count} as played` })).toBeVisible();
  expect(byStart(await exported(page, 1))).toEqual(byStart(played(1)));
  await page.keyboard.press('u');
  await expect(page.getByRole('button', { name: /Select .* as played/ })).toHaveCount(0);
  await page.keyboard.press('o');
  await expect(page.getByText(`own settings, ${count} notes`)).toBeVisible();
  await quantize(page).click();
  notes = await exported(page, 1);
  expect(notes.filter((n) => n.start % 240 === 0).length).toBeLessThan(notes.length / 2);
  await page.getByRole('button', { name: '← whole part' }).click();
  await expect(quantize(page)).not.toBeChecked();
});

test('Q goes to the grid of today, not to that of the first Q', async ({ page }) => {
  await openDemo(page);
  const r = await roll(page);
  await drag(page, [r.x + 75, r.top + 4], [r.x + 200, r.laneTop - 6]);
  await page.keyboard.press('q');
  await page.keyboard.press('Escape');
  await page.keyboard.press('4');
  await quantize(page).click();
  await drag(page, [r.at(3840) - 5, r.top + 4], [r.at(3840) + 120, r.laneTop - 6]);
  await page.keyboard.press('q');
  const notes = await exported(page, 1);
  const second = notes.filter((n) => n.start >= 3700 && n.start % 960 === 0);
  expect(second.length).toBeGreaterThan(2);
  await expect(page.getByRole('button', { name: /with own settings: 1\/16/ })).toBeVisible();
  await expect(page.getByRole('button', { name: /with own settings: 1\/4/ })).toBeVisible();
});

test('every stage is heard in the file: lengths, push, velocity and humanize', async ({ page }) => {
  await openDemo(page);
  await selectTrack(page, /Upright bass/);
  await page.getByRole('button', { name: 'Keep lengths' }).click();
  await page.getByRole('radio', { name: 'legato' }).click();
  let notes = byStart(await exported(page, 2));
  expect(notes.slice(0, -1).every((n, i) => n.end === notes[i + 1].start || n.pitch === notes[i + 1].pitch)).toBe(true);
  await page.getByRole('button', { name: 'push or pull' }).click();
  await slide(page, 'Earlier · later', 10);
  notes = byStart(await exported(page, 2));
  // 10 ms at 112 BPM are 17.92 ticks.
  expect(byStart(played(2)).every((n, i) => Math.abs(notes[i].start - n.start - 17.92) <= 0.5)).toBe(true);
  await page.getByRole('button', { name: 'as played', exact: true }).click();
  await slide(page, 'Contrast', 0);
  expect(new Set((await exported(page, 2)).map((n) => n.velocity)).size).toBe(1);
  await page.getByRole('switch', { name: 'Humanize' }).click();
  const first = byStart(await exported(page, 2)).map((n) => n.start);
  await page.getByTitle('New random numbers').click();
  const second = byStart(await exported(page, 2)).map((n) => n.start);
  expect(second).not.toEqual(first);
  await page.getByRole('button', { name: 'Undo' }).click();
  expect(byStart(await exported(page, 2)).map((n) => n.start)).toEqual(first);
});

test('a blind compare keeps score, shows nothing, and says at its end how likely that is', async ({ page }) => {
  await openDemo(page);
  await quantize(page).click();
  await page.keyboard.press('b');
  const strip = page.getByRole('group', { name: 'Blind compare', exact: true });
  await expect(strip.locator('[aria-pressed=true]')).toHaveCount(0);
  await strip.getByRole('button', { name: 'the first' }).first().click();
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await strip.getByRole('button', { name: 'the second' }).first().click();
  await expect(page.getByRole('radio', { name: 'Corrected' })).toBeChecked();
  await strip.getByRole('button', { name: 'the second' }).last().click();
  await expect(strip.getByText(/(Yes|No)\. [01] of 1 right\./)).toBeVisible();
  await expect(strip.locator('[aria-pressed=true]')).toHaveCount(0);
  await strip.getByRole('button', { name: 'End' }).click();
  await expect(strip).toHaveCount(0);
  await expect(page.getByText(/[01] of 1 right\. By guessing, (50|100) in 100 would do as well\./)).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByText(/By guessing,/)).toHaveCount(0);
});

test('commands are found by name, the report is saved, and messages warn, show and offer the way out', async ({
  page,
}) => {
  await openDemo(page);
  await test.step('commands are found by name, and the report is saved', async () => {
    await listened(page);
    await page.keyboard.press('Control+k');
    await page.keyboard.type('timing rep');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('heading', { name: 'Timing report, Marimba' })).toBeVisible();
    // The map of who is ahead of whom comes later.
    await expect(page.locator('es-timing-report .charts canvas')).toHaveCount(3);
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save as CSV' }).click();
    expect((await download).suggestedFilename()).toBe('Marimba timing.csv');
    await expect(page.getByText('“Marimba timing.csv” was written.')).toBeVisible();
    const csv = readFileSync(await (await download).path(), 'utf8')
      .trim()
      .split('\r\n');
    expect(csv).toHaveLength(436);
    expect(csv[0]).toContain('offset_ms');
    const picture = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save as PNG' }).click();
    const png = readFileSync(await (await picture).path());
    expect(png.subarray(1, 4).toString()).toBe('PNG');
    // Twice as sharp as the page: a chart of 170 px, with its title over it, and the heading over all.
    expect(png.readUInt32BE(20)).toBeGreaterThan(2 * (170 + 2 * 18 + 32));
    await page.keyboard.press('Escape');
    await expect(page.getByRole('heading', { name: 'Timing report, Marimba' })).toHaveCount(0);
  });

  await test.step('messages warn, show and offer the way out', async () => {
    await listened(page);
    const before = await roll(page);
    await page.getByRole('button', { name: '1/16', exact: true }).click();
    await page.getByRole('radio', { name: 'quarter', exact: true }).click();
    const strip = page.locator('es-messages');
    await expect(strip).toContainText(/chords merge with the one before on 1\/4/);
    // A message comes and goes without moving anything under the pointer.
    expect(await roll(page)).toMatchObject({ y: before.y, height: before.height });
    await strip.getByRole('button', { name: 'Show' }).click();
    await expect(page.getByText(/notes selected:/)).toBeVisible();
    await strip.getByRole('button', { name: 'Try 1/16' }).click();
    await expect(strip).not.toContainText('merge');
    await selectTrack(page, /Clarinet/);
    await expect(strip).toContainText(/First note \d+ ms before its bar/);
    // It covers no notes: it stands over the picture, not in it.
    const [box, r] = [await strip.boundingBox(), await roll(page)];
    expect((box?.y ?? 0) + (box?.height ?? 0)).toBeLessThanOrEqual(r.y + 0.5);
    await strip.getByRole('button', { name: 'Move it to the bar' }).click();
    await expect(strip).not.toContainText('before its bar');
    await expect(page.getByRole('application')).toBeFocused();
    expect(Math.min(...(await exported(page, 5)).map((n) => n.start))).toBe(6 * 3840);
  });
});

test('one change is for all tracks that are chosen, and each is listened to by itself', async ({ page }) => {
  await openDemo(page);
  const tracks = page.getByRole('list', { name: 'Tracks' });
  await tracks
    .getByRole('button', { name: /Upright bass/ })
    .first()
    .click({ modifiers: ['Shift'] });
  await tracks
    .getByRole('button', { name: /Electric piano/ })
    .first()
    .click({ modifiers: ['Shift'] });
  await expect(tracks.getByRole('button', { name: /Upright bass \(chosen too\)/ })).toBeVisible();
  await expect(page.getByText('and 2 more: all the same')).toBeVisible();
  const panel = page.locator('es-fits-panel');
  await panel.getByRole('button', { name: 'Remove the lag of each' }).click({ timeout: 60_000 });
  await expect(panel.getByRole('button', { name: 'Remove the lag of each' })).toHaveCount(0);
  await panel.getByRole('button', { name: 'Apply the best fit to each' }).click();
  let { notes } = readMidi(await exportMidi(page, 'corrected'));
  const of = (track: number) => notes.filter((n) => n.track === track).map((n) => n.start);
  expect(of(1).every((s) => s % 240 === 0)).toBe(true);
  for (const track of [2, 4]) expect(of(track).every((s) => s % 480 === 0)).toBe(true);
  expect(of(5).sort()).toEqual(
    played(5)
      .map((n) => n.start)
      .sort(),
  );
  // A swing of all changes nothing else: the marimba stays on sixteenths, the others on eighths.
  await slide(page, 'Swing', 60);
  notes = readMidi(await exportMidi(page, 'corrected')).notes;
  expect(new Set(of(1).map((s) => s % 480))).toEqual(new Set([0, 288]));
  expect(new Set(of(2).map((s) => s % 960))).toEqual(new Set([0, 576]));
  await page.getByRole('switch', { name: 'Treatment of all chosen parts' }).click();
  notes = readMidi(await exportMidi(page, 'corrected')).notes;
  for (const track of [1, 2, 4]) {
    expect(byStart(notes.filter((n) => n.track === track))).toEqual(byStart(played(track)));
  }
});

test('grids with tuplets, mixes and grooves can be built and put back, for one drum of a kit too', async ({ page }) => {
  await openDemo(page);
  await test.step('grids with tuplets and mixes can be built, and a stage put back', async () => {
    await page.getByRole('button', { name: '1/16', exact: true }).click();
    await page.getByRole('radio', { name: 'n : m' }).click();
    await typeInto(page, page.getByRole('spinbutton', { name: 'Notes' }), '7');
    await page.keyboard.press('Tab');
    await expect(page.getByRole('button', { name: '1/16 7:4', exact: true })).toBeVisible();
    await page.getByRole('radio', { name: 'straight' }).click();
    await choose(page, 'Mixed with', '1/8T');
    await expect(page.getByRole('button', { name: '1/16+1/8T', exact: true })).toBeVisible();
    await page.getByRole('button', { name: 'Put back: Put starts on lines' }).click();
    await expect(page.getByRole('button', { name: '1/16', exact: true })).toBeVisible();
    await expect(quantize(page)).toBeFocused();
    expect(byStart(await exported(page, 1))).toEqual(byStart(played(1)));
  });

  await test.step('a groove is named in the sentence, does what it says, and note values leave it', async () => {
    await choose(page, 'Groove', 'Late backbeat');
    const sentence = page.locator('es-quantize-stage .sentence');
    await expect(sentence).toContainText('the lines of Late backbeat');
    await expect(page.getByRole('slider', { name: 'Swing', exact: true })).toHaveCount(0);
    // The timing alone, until its loudness is asked for.
    const loudness = async () => byStart(await exported(page, 1)).map((n) => n.velocity);
    const asPlayed = byStart(played(1)).map((n) => n.velocity);
    expect(await loudness()).toEqual(asPlayed);
    await slide(page, 'Loudness of the groove', 100);
    await expect(sentence).toContainText('of its loudness');
    expect(await loudness()).not.toEqual(asPlayed);
    await page.keyboard.press('Escape');
    await page.getByRole('heading', { name: 'Marimba' }).click();
    await page.keyboard.press('8');
    await expect(sentence).toContainText(/Put starts on\s+1\/8\s+lines/);
    await expect(page.getByText('The groove Late backbeat was switched off.')).toBeVisible();
    expect((await exported(page, 1)).every((n) => n.start % 480 === 0)).toBe(true);
  });

  await test.step('one drum of a kit is selected by its key and takes a groove of its own', async () => {
    await selectTrack(page, /Brush kit/);
    const r = await roll(page);
    // Three drums are shown in rows of 32 px around the middle; the snare is the one in the middle.
    await page.mouse.click(r.x + 30, (r.top + r.laneTop) / 2);
    await expect(page.getByText(/notes selected:/)).toBeVisible();
    await page.keyboard.press('o');
    await choose(page, 'Groove', 'Late backbeat');
    const notes = await exported(page, 3);
    const snares = notes.filter((n) => n.pitch === 38);
    expect(snares.filter((n) => n.start % 1920 === 960 + 29).length).toBeGreaterThan(snares.length * 0.8);
    const others = (list: readonly FileNote[]) => byStart(list.filter((n) => n.pitch !== 38));
    expect(others(notes)).toEqual(others(played(3)));
  });
});
