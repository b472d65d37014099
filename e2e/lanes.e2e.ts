import { expect, test } from '@playwright/test';
import { boxOf, drag, typeInto } from './hands';
import { laneOf, lastStep, notesNow, openLanes, openNotes } from './shaping';
import { exportByKey, midicsv, plainNote, roll } from './support';

const EIGHT = Array.from({ length: 8 }, (_, i) => plainNote(i, i * 480, i % 2 ? 64 : 60));

const events = (bytes: Buffer, kind: string) =>
  midicsv(bytes)
    .filter((line) => line.includes(kind))
    .map((line) => line.split(', ').map(Number));

test('controllers and bends are drawn, thinned, dragged and erased in their lanes', async ({ page }) => {
  await openNotes(page, 'Bend', EIGHT);
  await openLanes(page, ['Pitch bend', 'Controller']);
  const r = await roll(page);
  const bend = await laneOf(page, 'Pitch bend');
  const middle = (bend.top + 22 + bend.bottom) / 2;
  // A straight rise from the middle, with Shift; behind it the bend is as it was: none.
  await page.keyboard.down('Shift');
  await drag(page, [r.at(480), middle], [r.at(1440), bend.top + 26]);
  await page.keyboard.up('Shift');
  const drawn = events(await exportByKey(page), 'Pitch_bend_c');
  expect(drawn.length).toBeGreaterThan(8);
  const values = drawn.slice(0, -1).map((e) => e[4]);
  expect(values).toEqual([...values].sort((a, b) => a - b));
  expect(drawn.at(-1)?.[4]).toBe(8192);
  // A straight line needs two points and the way back.
  await page.getByRole('button', { name: 'Thin' }).first().click();
  const thinned = events(await exportByKey(page), 'Pitch_bend_c');
  expect(thinned.length).toBeLessThan(drawn.length / 2);
  expect(thinned[0]).toEqual(drawn[0]);
  expect(thinned.at(-1)).toEqual(drawn.at(-1));
  // The controller is chosen in the head: volume, one point by a double press, dragged in value, erased by its key.
  await page.getByRole('combobox', { name: 'Controller', exact: true }).click();
  await page.keyboard.type('7');
  await page.keyboard.press('Enter');
  const volume = await laneOf(page, '7 volume');
  const y = volume.bottom - 30;
  await page.mouse.dblclick(r.at(960), y);
  const [point] = events(await exportByKey(page), 'Control_c');
  expect(point.slice(0, 2)).toEqual([2, 960]);
  expect(point[4]).toBe(7);
  await drag(page, [r.at(960), y], [r.at(960), y - 15]);
  expect(events(await exportByKey(page), 'Control_c')[0][5]).toBeGreaterThan(point[5]);
  await page.mouse.move(r.at(960) - 30, y - 15);
  await page.keyboard.down('x');
  await page.mouse.move(r.at(960) + 30, y - 15, { steps: 20 });
  await page.keyboard.up('x');
  expect(events(await exportByKey(page), 'Control_c')).toHaveLength(0);
  expect(events(await exportByKey(page), 'Pitch_bend_c')).toEqual(thinned);
  expect(bend.top).toBeLessThan(volume.top);
});

test('lanes that are opened and folded leave the notes in view', async ({ page }) => {
  await openNotes(page, 'In view', EIGHT);
  const r = await roll(page);
  /** How many of the roll's rows have notes, as the pointer finds them from the top down at the time of two. */
  const found = async () => {
    const names = new Set<string>();
    const { laneTop } = await roll(page);
    for (const tick of [960, 1440]) {
      for (let y = r.y + 64; y < laneTop - 4; y += 6) {
        await page.mouse.move(r.at(tick) + 4, y);
        const tip = page.locator('.tip b');
        if (await tip.isVisible()) names.add(await tip.innerText());
      }
    }
    return names.size;
  };
  expect(await found()).toBe(2);
  await openLanes(page, ['Velocity', 'Length']);
  expect(await found()).toBe(2);
  await page.getByRole('button', { name: 'Fold the lane Velocity' }).click();
  await page.getByRole('button', { name: 'Fold the lane Length' }).click();
  expect(await found()).toBe(2);
});

test('lanes are dragged taller, folded, and come back as they were left', async ({ page }) => {
  await openNotes(page, 'Fold', EIGHT);
  await openLanes(page, ['Velocity']);
  const before = await laneOf(page, 'Level');
  await drag(page, [600, before.top], [600, before.top - 40]);
  const taller = await laneOf(page, 'Level');
  expect(Math.abs(before.top - taller.top - 40)).toBeLessThanOrEqual(2);
  await page.reload();
  await expect(page.getByText('Offset from the lines, in ms')).toBeVisible();
  expect((await laneOf(page, 'Level')).top).toBe(taller.top);
  await page.getByRole('button', { name: 'Fold the lane Offset from the lines' }).click();
  await expect(page.getByText('Offset from the lines, in ms')).toHaveCount(0);
  // Amounts in the head by keys alone: typed, and a held arrow is one step.
  await page.keyboard.press('Control+a');
  await typeInto(page, page.getByRole('textbox', { name: 'Level', exact: true }), '12');
  await page.keyboard.press('Enter');
  expect((await notesNow(page)).map((n) => n.velocity)).toEqual(EIGHT.map(() => 92));
  await page.getByRole('textbox', { name: 'Level', exact: true }).click();
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowDown');
  expect((await notesNow(page)).map((n) => n.velocity)).toEqual(EIGHT.map(() => 87));
  await page.getByRole('button', { name: 'Undo' }).click();
  expect((await notesNow(page)).map((n) => n.velocity)).toEqual(EIGHT.map(() => 92));
  // What cannot be is said, and changes nothing.
  for (const wrong of ['loud', '200', '5 %']) {
    await typeInto(page, page.getByRole('textbox', { name: 'Level', exact: true }), wrong);
    await page.keyboard.press('Enter');
    await expect(page.getByText('Type a number from −126 to +126.')).toBeVisible();
    await expect(page.getByRole('textbox', { name: 'Level', exact: true })).toHaveValue('0');
  }
  expect((await notesNow(page)).map((n) => n.velocity)).toEqual(EIGHT.map(() => 92));
});

test('a selection is stretched by its handle; points of a lane are selected, moved together, thinned and erased', async ({
  page,
}) => {
  await test.step('a selection is stretched by the handle at its end, and other tracks stand behind where wished', async () => {
    const r = await openNotes(page, 'Stretch', EIGHT);
    await page.keyboard.press('Control+a');
    await expect(page.getByText(/^8 notes selected/)).toBeVisible();
    const end = r.at(3480);
    await drag(page, [end + 4, r.swingY], [end + 4 - (r.at(1740) - r.at(0)), r.swingY]);
    await expect.poll(() => lastStep(page)).toMatch(/^Stretch 8 notes by 0\.[45]/);
    const starts = (await notesNow(page)).map((n) => n.start);
    const factor = starts[7] / EIGHT[7].start;
    expect(Math.abs(factor - 0.5)).toBeLessThan(0.03);
    for (const [i, { start }] of EIGHT.entries()) expect(Math.abs(starts[i] - start * factor)).toBeLessThanOrEqual(1);
    const behind = page.getByRole('button', { name: 'Show Stretch behind' });
    await behind.click();
    await expect(behind).toHaveAttribute('aria-pressed', 'true');
    await behind.click();
    await expect(page.getByRole('button', { name: 'Show Stretch behind, with its lines' })).toHaveText('B+');
    const list = await boxOf(page.getByRole('list', { name: 'Tracks' }));
    expect(list.width).toBeGreaterThan(100);
  });

  await test.step('points of a lane are selected by a frame and by presses, moved together, by keys too, thinned and erased', async () => {
    await openNotes(page, 'Points', EIGHT);
    await openLanes(page, ['Controller']);
    const r = await roll(page);
    const lane = await laneOf(page, 'modulation');
    const y = lane.bottom - 30;
    const ticks = [480, 960, 1440, 1920, 2400];
    for (const tick of ticks) await page.mouse.dblclick(r.at(tick), y);
    const now = async () => events(await exportByKey(page), 'Control_c').map((e) => [e[1], e[5]]);
    const before = await now();
    expect(before.map(([tick]) => tick)).toEqual(ticks);
    const value = before[0][1];
    // A frame with Alt around three, and one of them out again by a press.
    await page.keyboard.down('Alt');
    await drag(page, [r.at(960) - 8, y - 14], [r.at(1920) + 8, y + 14]);
    await page.keyboard.up('Alt');
    await expect(page.getByText('3 selected')).toBeVisible();
    await page.keyboard.down('Shift');
    await page.mouse.click(r.at(1440), y);
    await page.keyboard.up('Shift');
    await expect(page.getByText('2 selected')).toBeVisible();
    // The two go up together, and stop together at their neighbours: the third one between them stays.
    await drag(page, [r.at(960), y], [r.at(960), y - 12]);
    const raised = await now();
    expect(raised[1][1]).toBeGreaterThan(value);
    expect(raised.map(([, v]) => v)).toEqual([value, raised[1][1], value, raised[1][1], value]);
    // Escape in the middle of a drag takes it back, and what was selected stays so.
    await page.mouse.move(r.at(960), y - 12);
    await page.mouse.down();
    await page.mouse.move(r.at(960), y + 10, { steps: 5 });
    await page.keyboard.press('Escape');
    await page.mouse.up();
    expect(await now()).toEqual(raised);
    await expect(page.getByText('2 selected')).toBeVisible();
    // Held arrow keys are one step.
    for (let n = 0; n < 5; n++) await page.keyboard.press('Alt+ArrowDown');
    for (let n = 0; n < 3; n++) await page.keyboard.press('Alt+ArrowRight');
    const nudged = await now();
    expect(nudged[1]).toEqual([963, raised[1][1] - 5]);
    await page.keyboard.press('Control+z');
    expect(await now()).toEqual(raised);
    // By keys alone: all of the lane, then erased. The notes stay.
    await page.getByRole('button', { name: 'Select', exact: true }).last().press('Enter');
    await expect(page.getByText('5 selected')).toBeVisible();
    await page.keyboard.press('Delete');
    expect(await now()).toEqual([]);
    expect(await notesNow(page)).toHaveLength(EIGHT.length);
    await page.keyboard.press('Control+z');
    expect(await now()).toEqual(raised);
    // A selected note takes the place of selected points: Delete is for one of the two.
    await page.mouse.click(r.at(1440), y);
    await expect(page.getByText('1 selected')).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByText('1 selected')).toHaveCount(0);
  });
});
