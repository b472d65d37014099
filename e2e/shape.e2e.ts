import { expect, test } from '@playwright/test';
import { drag, pressTwice, tabTo, typeInto } from './hands';
import { laneOf, lastStep, lengths, notesNow, openLanes, openNotes, rowsOf, runCommand } from './shaping';
import { exportByKey, midicsv, openSongs, plainNote, reload, roll } from './support';

/** Eight eighths on two keys, 120 ticks long. */
const EIGHT = Array.from({ length: 8 }, (_, i) => plainNote(i, i * 480, i % 2 ? 64 : 60));

test('notes are drawn, copied and dragged at their ends, run along the pointer, and swept by the verbs', async ({
  page,
}) => {
  await test.step('the ends of notes are dragged, alone, together and in proportion, and Escape takes it back', async () => {
    const r = await openNotes(page, 'Ends', EIGHT);
    const width = r.at(120) - r.at(0);
    const end = r.note(480, 64, width - 1.5);
    await drag(page, end, [end[0] + (r.at(240) - r.at(120)), end[1]]);
    expect(lengths(await notesNow(page))).toEqual([120, 240, 120, 120, 120, 120, 120, 120]);
    // The start of another one, free of the lines.
    const start = r.note(960, 60, 1);
    await page.keyboard.down('Control');
    await drag(page, start, [start[0] - (r.at(60) - r.at(0)), start[1]]);
    await page.keyboard.up('Control');
    const third = (await notesNow(page))[2];
    expect(Math.abs(third.start - 900)).toBeLessThanOrEqual(14);
    expect(third.end).toBe(1080);
    await page.keyboard.press('Control+z');
    // All of them, in proportion to the one that is dragged: twice as long.
    await page.keyboard.press('Control+a');
    const last = r.note(1440, 64, width - 1.5);
    await page.keyboard.down('Shift');
    await drag(page, last, [last[0] + (r.at(120) - r.at(0)), last[1]]);
    await page.keyboard.up('Shift');
    expect(lengths(await notesNow(page))).toEqual([240, 480, 240, 240, 240, 240, 240, 240]);
    await expect.poll(() => lastStep(page)).toBe('Resize 8 notes');
    await page.keyboard.press('Control+z');
    await page.mouse.move(...end);
    await page.mouse.down();
    await page.mouse.move(end[0] + 90, end[1], { steps: 5 });
    await page.keyboard.press('Escape');
    await page.mouse.up();
    expect(lengths(await notesNow(page))).toEqual([120, 240, 120, 120, 120, 120, 120, 120]);
  });

  await test.step('a double press adds a note, held it gets its length and velocity; with Alt a copy is dragged', async () => {
    const r = await openNotes(page, 'Draw', EIGHT);
    await page.mouse.dblclick(...r.note(240, 62));
    let notes = await notesNow(page);
    expect(notes).toHaveLength(9);
    expect(notes[1]).toMatchObject({ pitch: 62, start: 240, end: 480 });
    const [x, y] = r.note(1200, 62);
    await pressTwice(page, [x, y]);
    await page.mouse.move(r.at(1920) + 1, y - 30, { steps: 8 });
    await expect(page.getByText(/3 steps · velocity/)).toBeVisible();
    await page.mouse.up();
    notes = await notesNow(page);
    const drawn = notes.find((n) => n.start === 1200);
    expect(drawn).toMatchObject({ pitch: 62, end: 1920 });
    expect(drawn?.velocity).toBeGreaterThan(notes[1].velocity);
    await page.keyboard.down('Alt');
    await drag(page, r.note(0, 60), r.note(240, 61));
    await page.keyboard.up('Alt');
    notes = await notesNow(page);
    expect(notes.filter((n) => n.pitch === 61)).toEqual([
      expect.objectContaining({ start: 240, end: 360, velocity: 80 }),
    ]);
    expect(notes.some((n) => n.start === 0 && n.pitch === 60)).toBe(true);
    // What is taken back on its way is not there.
    await pressTwice(page, r.note(720, 66));
    await page.mouse.move(r.at(1500), y, { steps: 4 });
    await page.keyboard.press('Escape');
    await page.mouse.up();
    expect(await notesNow(page)).toEqual(notes);
  });

  await test.step('keys act where the pointer is: tapped for one note, held and moved for all that are swept', async () => {
    const r = await openNotes(page, 'Verbs', EIGHT);
    const sweep = async (key: string, from: number, to: number, pitch: number) => {
      await page.mouse.move(...r.note(from, pitch));
      await page.keyboard.down(key);
      await page.mouse.move(...r.note(to, pitch), { steps: 12 });
      await page.keyboard.up(key);
    };
    const tap = async (key: string, tick: number, pitch: number) => {
      await page.mouse.move(...r.note(tick, pitch));
      await page.keyboard.press(key);
    };
    await tap('w', 0, 60);
    expect(lengths(await notesNow(page))[0]).toBe(360);
    await tap('s', 0, 60);
    expect(lengths(await notesNow(page))[0]).toBe(120);
    await sweep('r', 480, 2400, 64);
    expect((await notesNow(page)).map((n) => n.velocity)).toEqual([80, 88, 80, 88, 80, 88, 80, 80]);
    await expect.poll(() => lastStep(page)).toMatch(/3 notes/);
    await tap('f', 480, 64);
    expect((await notesNow(page))[1].velocity).toBe(80);
    await tap('c', 0, 60);
    expect((await notesNow(page)).slice(0, 2).map((n) => [n.start, n.end])).toEqual([
      [0, 60],
      [60, 120],
    ]);
    await page.keyboard.press('Control+z');
    await sweep('a', 480, 3360, 64);
    expect(await notesNow(page)).toHaveLength(4);
    // The first one that is swept decides the way: they all sound again.
    await sweep('a', 480, 3360, 64);
    expect(await notesNow(page)).toHaveLength(8);
    // What is swept is crossed out on its way, and Escape takes it back.
    await page.mouse.move(...r.note(0, 60));
    await page.keyboard.down('x');
    await page.mouse.move(...r.note(1920, 60), { steps: 8 });
    await expect(page.getByText('3 notes erased')).toBeVisible();
    await page.keyboard.press('Escape');
    await page.keyboard.up('x');
    expect(await notesNow(page)).toHaveLength(8);
    await sweep('x', 0, 1920, 60);
    expect(await notesNow(page)).toHaveLength(5);
    await page.keyboard.press('Control+z');
    expect(await notesNow(page)).toHaveLength(8);
    // One cut through everything that sounds there.
    await page.keyboard.press('Control+a');
    await runCommand(page, 'selected notes a step longer');
    await page.mouse.move(...r.note(0, 60, 14));
    await page.keyboard.press('Shift+C');
    expect((await notesNow(page)).length).toBeGreaterThan(8);
  });

  await test.step('the same verbs at the note cursor, without a pointer', async () => {
    await openNotes(page, 'Cursor', EIGHT);
    await tabTo(page, page.locator('es-timing-view .canvas'));
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('w');
    expect(lengths(await notesNow(page))).toEqual([120, 360, 120, 120, 120, 120, 120, 120]);
    await page.keyboard.press('r');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('x');
    const notes = await notesNow(page);
    expect(notes.map((n) => n.start)).toEqual([0, 480, 1440, 1920, 2400, 2880, 3360]);
    expect(notes[1].velocity).toBe(88);
  });

  await test.step('the right button opens the verbs beside the note; with “go on” a drag sweeps with one', async () => {
    const r = await openNotes(page, 'Strip', EIGHT);
    const strip = page.getByRole('toolbar', { name: 'At this place' });
    await page.mouse.click(...r.note(480, 64), { button: 'right' });
    await strip.getByRole('button', { name: 'Longer' }).click();
    await expect(strip).toHaveCount(0);
    expect(lengths(await notesNow(page))[1]).toBe(360);
    await page.mouse.click(...r.note(480, 64), { button: 'right' });
    await strip.getByLabel('go on').click();
    await strip.getByRole('button', { name: 'Erase' }).click();
    await drag(page, r.note(0, 60), r.note(1920, 60));
    await drag(page, r.note(480, 64), r.note(1440, 64));
    await page.getByRole('button', { name: 'Done' }).click();
    expect((await notesNow(page)).map((n) => n.start)).toEqual([2400, 2880, 3360]);
    // By keys alone: the menu key at the note cursor, arrows, Enter.
    await tabTo(page, page.locator('es-timing-view .canvas'));
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('Shift+F10');
    await expect(strip.getByRole('button', { name: 'Erase' })).toBeFocused();
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('Enter');
    expect(await notesNow(page)).toHaveLength(2);
  });

  await test.step('with Shift a double press draws a run along the pointer, a note a step, on swung lines too', async () => {
    const r = await openNotes(page, 'Run', EIGHT);
    // The lines that are drawn are swung; the treatment itself is off.
    await drag(page, [r.at(240), r.swingY], [r.at(320), r.swingY]);
    await expect(page.getByText(/lines swung 66\.5|67|66/).first()).toBeVisible();
    await page.getByRole('switch', { name: 'Put starts on lines' }).click();
    const [x, y] = r.note(0, 67);
    await page.keyboard.down('Shift');
    await pressTwice(page, [x, y]);
    await page.mouse.move(r.at(960) + 8, y, { steps: 6 });
    await page.mouse.up();
    await page.keyboard.up('Shift');
    const run = (await notesNow(page)).filter((n) => n.pitch === 67);
    expect(run).toHaveLength(5);
    const off = run.filter((_, i) => i % 2 === 1).map((n) => n.start % 480);
    for (const swung of off) expect(Math.abs(swung - 320)).toBeLessThan(15);
  });
});

test('lanes: velocities, lengths and pedals are drawn, levelled and dragged, and written into the file', async ({
  page,
}) => {
  await openNotes(page, 'Lanes', EIGHT);
  await openLanes(page, ['Velocity', 'Length', 'Pedal']);
  const r = await roll(page);
  const velocity = await laneOf(page, 'Level');
  const low = velocity.bottom - 10;
  // A straight ramp, with Shift.
  await page.keyboard.down('Shift');
  await drag(page, [r.at(0) - 6, low], [r.at(3360) + 10, velocity.top + 32]);
  await page.keyboard.up('Shift');
  const ramp = (await notesNow(page)).map((n) => n.velocity);
  expect(ramp).toEqual([...ramp].sort((a, b) => a - b));
  expect(ramp[7] - ramp[0]).toBeGreaterThan(60);
  // Contrast typed, level dragged.
  await typeInto(page, page.getByLabel('Contrast'), '50');
  await page.keyboard.press('Enter');
  const closer = (await notesNow(page)).map((n) => n.velocity);
  expect(Math.abs(closer[7] - closer[0] - (ramp[7] - ramp[0]) / 2)).toBeLessThanOrEqual(1);
  const level = await page.locator('es-lane-amount .grip').first().boundingBox();
  if (!level) throw new Error('There is no level.');
  await drag(page, [level.x + 5, level.y + 8], [level.x + 25, level.y + 8]);
  expect((await notesNow(page)).map((n) => n.velocity)).toEqual(closer.map((v) => Math.min(127, v + 10)));
  // A stem's head is dragged in the lane of lengths, two octaves of its scale up.
  const length = await laneOf(page, 'Length, in steps');
  const room = length.bottom - length.top - 22 - 12;
  const head = (steps: number) => length.top + 28 + (1 - (Math.log2(steps) + 3) / 7) * room;
  await drag(page, [r.at(480), head(0.5)], [r.at(480), head(2)]);
  expect(lengths(await notesNow(page))).toEqual([120, 480, 120, 120, 120, 120, 120, 120]);
  // A stroke in the pedal's lane holds it from line to line.
  const pedal = await laneOf(page, 'Pedal');
  const y = (pedal.top + 22 + pedal.bottom) / 2;
  await drag(page, [r.at(480), y], [r.at(1920), y]);
  const pedals = midicsv(await exportByKey(page)).filter((l) => l.includes('Control_c'));
  expect(pedals).toEqual(['2, 480, Control_c, 0, 64, 127', '2, 1920, Control_c, 0, 64, 0']);
  await reload(page);
  await expect(page.getByText('Pedal', { exact: true })).toBeVisible();
  expect(midicsv(await exportByKey(page)).filter((l) => l.includes('Control_c'))).toEqual(pedals);
});

test('commands, the strip and the clipboard shape what is selected', async ({ page }) => {
  await test.step('commands on what is selected, each read back from the file', async () => {
    await openNotes(page, 'Commands', EIGHT);
    await page.keyboard.press('Control+a');
    const starts = EIGHT.map((n) => n.start);
    const check = async (name: string, what: (notes: Awaited<ReturnType<typeof notesNow>>) => unknown, is: unknown) => {
      await runCommand(page, name);
      expect(what(await notesNow(page)), name).toEqual(is);
      await page.keyboard.press('Control+z');
    };
    await check('legato', (n) => lengths(n), [480, 480, 480, 480, 480, 480, 480, 120]);
    await check(
      'to twice their time',
      (n) => n.map((o) => o.start),
      starts.map((s) => s * 2),
    );
    await check(
      'to half their time',
      (n) => n.map((o) => o.start),
      starts.map((s) => s / 2),
    );
    await check(
      'to the next line',
      (n) => lengths(n),
      EIGHT.map(() => 240),
    );
    await check(
      'an octave up',
      (n) => n.map((o) => o.pitch),
      EIGHT.map((n) => n.pitch + 12),
    );
    await check('on one key', (n) => [...new Set(n.map((o) => o.pitch))], [60]);
    await check('Reverse', (n) => n.map((o) => o.pitch), EIGHT.map((n) => n.pitch).reverse());
    await check('Duplicate', (n) => n.length, 16);
    await runCommand(page, 'little looser');
    const loose = (await notesNow(page)).map((n) => n.start);
    expect(loose).not.toEqual(starts);
    for (const [i, s] of loose.entries()) expect(Math.abs(s - starts[i])).toBeLessThanOrEqual(6);
    await runCommand(page, 'Return the starts');
    expect((await notesNow(page)).map((n) => n.start)).toEqual(starts);
    // Off the keyboard: a sentence, and nothing changed.
    for (let i = 0; i < 5; i++) await runCommand(page, 'an octave up');
    await runCommand(page, 'an octave up');
    await expect(page.getByText(/would leave the keyboard/)).toBeVisible();
    expect((await notesNow(page)).map((n) => n.pitch)).toEqual(EIGHT.map((n) => n.pitch + 60));
  });

  await test.step('the strip shapes by fields, selects by what notes are, and tidies what it counted', async () => {
    const messy = [...EIGHT, plainNote(8, 485, 64, 30), { ...plainNote(9, 700, 62), length: 8 }];
    await openNotes(page, 'Messy', messy);
    await page.keyboard.press('Shift+Q');
    await page.getByRole('button', { name: 'Off the beat' }).click();
    await page.keyboard.press('Shift+S');
    await expect(page.getByText(/^6 notes selected/).first()).toBeVisible();
    await typeInto(page, page.getByLabel('Factor to stretch by'), '0');
    await page.getByRole('button', { name: 'Stretch', exact: true }).click();
    await expect(page.getByText(/^Choose a factor/)).toBeVisible();
    await expect.poll(() => lastStep(page)).toBe('Nothing to undo');
    await page.keyboard.press('Escape');
    await page.keyboard.press('Escape');
    await page.keyboard.press('Shift+T');
    await expect(page.getByRole('button', { name: 'Tidy 2 notes' })).toBeVisible();
    const shorter = page.getByLabel('Notes shorter than, limit');
    for (const wrong of ['2000', 'e']) {
      await typeInto(page, shorter, wrong);
      await page.keyboard.press('Enter');
      await expect(page.getByText('Type a number from 0 to 1000.')).toBeVisible();
      await expect(shorter).toHaveValue('1000');
    }
    await typeInto(page, shorter, '20');
    await page.getByLabel('Notes shorter than', { exact: true }).click();
    await expect(page.getByRole('button', { name: 'Tidy one note' })).toBeVisible();
    await page.getByLabel('Notes shorter than', { exact: true }).click();
    await page.getByRole('button', { name: 'Tidy 2 notes' }).click();
    await expect(page.getByRole('button', { name: 'Nothing to tidy' })).toBeVisible();
    expect((await notesNow(page)).map((n) => [n.start, n.velocity])).toEqual(EIGHT.map((n) => [n.start, 80]));
    await page.keyboard.press('Escape');
  });

  await test.step('notes are copied, cut and pasted at the playhead; other texts are refused in a sentence', async () => {
    // The first one that is copied was played early, and is as early where it is pasted.
    const early = 20;
    const r = await openNotes(
      page,
      'Clip',
      EIGHT.map((n, i) => (i === 1 ? { ...n, start: n.start - early } : n)),
    );
    await page.mouse.click(...r.note(480, 64));
    await page.keyboard.down('Shift');
    await page.mouse.click(...r.note(960, 60));
    await page.keyboard.up('Shift');
    await page.keyboard.press('Control+c');
    await expect(page.getByText('Copied 2 notes.')).toBeVisible();
    await page.mouse.click(r.at(3840), r.barsY);
    await page.keyboard.press('Control+v');
    expect((await notesNow(page)).slice(8).map((n) => [n.start, n.pitch])).toEqual([
      [3840 - early, 64],
      [4320, 60],
    ]);
    await page.keyboard.press('Control+x');
    expect(await notesNow(page)).toHaveLength(8);
    // Words that were copied from a field are no notes.
    await page.keyboard.press('Shift+S');
    await page.getByLabel('Factor to stretch by').click();
    await page.keyboard.press('Control+a');
    await page.keyboard.press('Control+c');
    await tabTo(page, page.locator('es-timing-view .canvas'));
    await page.keyboard.press('Control+v');
    await expect(page.getByText(/The clipboard holds no notes/)).toBeVisible();
    expect(await notesNow(page)).toHaveLength(8);
  });
});

test('a new song is drawn into: its first note makes its first part, and it is there after a reload', async ({
  page,
}) => {
  await openSongs(page);
  await page.getByRole('button', { name: 'New song' }).click();
  await page.getByRole('button', { name: 'Create', exact: true }).click();
  await page.waitForURL(/\/song\//);
  await expect(page.getByText(/This track is empty/)).toBeVisible();
  const r = await rowsOf(page, [55, 79]);
  await page.mouse.dblclick(r.at(3840) + 8, r.y + 150);
  await expect(page.getByText(/whole part, one note/)).toBeVisible();
  await reload(page);
  await expect(page.getByText(/whole part, one note/)).toBeVisible();
  const [note] = await notesNow(page);
  expect([note.start, note.end]).toEqual([3840, 4080]);
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/This track is empty/)).toBeVisible();
  await page.getByRole('button', { name: 'Add a track' }).click();
  await expect(page.getByRole('list', { name: 'Tracks' }).getByRole('listitem')).toHaveCount(2);
});
