import { expect, test, type Page } from '@playwright/test';
import { choose, drag, holdKey, tabTo, typeInto } from './hands';
import { lastStep, notesNow, openNotes, type Rows } from './shaping';
import { exportByKey, midicsv, plainNote, reload, secondsWithMido, withoutFileWindows } from './support';

const BAR = 3840;
/** Four bars of quarters at 120 BPM: one each half second. */
const SIXTEEN = Array.from({ length: 16 }, (_, i) => plainNote(i, i * 960, 60 + (i % 5)));

const strip = (page: Page) => page.getByRole('region', { name: 'Tempo, meter, markers and key' });
const press = (page: Page, name: string) => strip(page).getByRole('button', { name, exact: true }).click();
const field = (page: Page, name: string) => strip(page).getByLabel(name, { exact: true });
/** Middle of the marks in the ruler. */
const marksY = (r: Rows) => r.y + 22;

/** Events of the file beside its notes, as `midicsv` names them. */
async function events(page: Page, kind: RegExp): Promise<string[]> {
  return midicsv(await exportByKey(page), false)
    .filter((line) => kind.test(line))
    .map((line) => line.split(', ').slice(1).join(' ').trim());
}

async function openStrip(page: Page, place: string): Promise<void> {
  await page.keyboard.press('Shift+B');
  await expect(strip(page)).toBeVisible();
  await typeInto(page, field(page, 'Place'), place);
  await page.keyboard.press('Enter');
}

/** Escape leaves a field first. */
async function closeStrip(page: Page): Promise<void> {
  await expect(async () => {
    await page.keyboard.press('Escape');
    await expect(strip(page)).toHaveCount(0, { timeout: 500 });
  }).toPass();
}

test('marks are set, changed in the strip and in the ruler, are in the file, and what cannot be is said', async ({
  page,
}) => {
  await test.step('in the ruler a mark is dragged, edited in place and added by a double press; Escape takes a drag back', async () => {
    const r = await openNotes(page, 'Ruler', SIXTEEN);
    await page.mouse.dblclick(r.at(1920) + 3, marksY(r));
    const fresh = page.getByLabel('Name of the new marker');
    await expect(fresh).toBeFocused();
    await page.keyboard.type('Bridge');
    await page.keyboard.press('Enter');
    await expect(fresh).toHaveCount(0);
    expect(await events(page, /Marker/)).toEqual(['1920 Marker_t "Bridge"']);
    await drag(page, [r.at(1920) + 12, marksY(r)], [r.at(4800) + 12, marksY(r)]);
    await expect.poll(() => lastStep(page)).toBe('Move a marker');
    expect(await events(page, /Marker/)).toEqual(['4800 Marker_t "Bridge"']);
    await page.mouse.move(r.at(4800) + 12, marksY(r));
    await page.mouse.down();
    await page.mouse.move(r.at(6720), marksY(r), { steps: 4 });
    await page.keyboard.press('Escape');
    await page.mouse.up();
    expect(await events(page, /Marker/)).toEqual(['4800 Marker_t "Bridge"']);
    await page.mouse.dblclick(r.at(4800) + 12, marksY(r));
    const name = page.getByLabel(/^Name of the marker at/);
    await expect(name).toBeFocused();
    await page.keyboard.type('Chorus');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Close the mark' }).click();
    expect(await events(page, /Marker/)).toEqual(['4800 Marker_t "Chorus"']);
    await page.mouse.dblclick(r.at(4800) + 12, marksY(r));
    await page
      .getByRole('group', { name: 'Mark' })
      .getByRole('button', { name: /^Remove/ })
      .click();
    await expect(page.getByRole('group', { name: 'Mark' })).toHaveCount(0);
    expect(await events(page, /Marker/)).toEqual([]);
    await page.keyboard.press('Control+z');
    // The tempo at the start is edited where it stands too; a key that is held is one step.
    await page.mouse.dblclick(r.at(0) + 12, marksY(r));
    await expect(page.getByLabel('Tempo at 1.1.1', { exact: true })).toBeFocused();
    await page.keyboard.type('90');
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Set the tempo to 90 BPM');
    await holdKey(page, 'ArrowUp', 5);
    await expect.poll(() => lastStep(page)).toBe('Set the tempo to 95 BPM');
    await expect(page.getByLabel('Tempo at 1.1.1', { exact: true })).toHaveValue('95');
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect.poll(() => lastStep(page)).not.toMatch(/Set the tempo/);
    await expect(page.getByLabel('Tempo at 1.1.1', { exact: true })).toHaveValue('120');
    await page.keyboard.press('Escape');
    await expect(page.getByLabel('Tempo at 1.1.1', { exact: true })).toHaveCount(0);
    // From one field to the next by Tab: what is changed takes the focus nowhere.
    await page.mouse.dblclick(r.at(0) + 72, marksY(r));
    await expect(page.getByLabel('Beats a bar at 1.1.1')).toBeFocused();
    await page.keyboard.type('3');
    await page.keyboard.press('Tab');
    await expect.poll(() => lastStep(page)).toBe('Set the meter to 3/4');
    await expect(page.getByRole('combobox', { name: 'Note value of a beat at 1.1.1' })).toBeFocused();
    await page.getByRole('button', { name: 'Close the mark' }).click();
    // And by keys alone, from the playhead.
    await page.keyboard.press('Home');
    await page.keyboard.press('Shift+Y');
    await expect(fresh).toBeFocused();
    await page.keyboard.type('Start');
    await page.keyboard.press('Enter');
    expect(await events(page, /Marker/)).toEqual(['0 Marker_t "Start"', '4800 Marker_t "Chorus"']);
  });

  await test.step('a tempo keeps the bars or the seconds, as is chosen; a ramp sounds even; nonsense is refused in a sentence', async () => {
    await openNotes(page, 'Steady', SIXTEEN);
    await openStrip(page, '2');
    await typeInto(page, field(page, 'Tempo in BPM'), '60');
    await press(page, 'Set the tempo');
    await expect.poll(() => lastStep(page)).toBe('Set the tempo to 60 BPM');
    // Four half seconds, then a second each.
    const slow = secondsWithMido(await exportByKey(page));
    expect(slow.slice(0, 8)).toEqual([0, 0.5, 1, 1.5, 2, 3, 4, 5].map((s) => expect.closeTo(s, 3)));
    await page.keyboard.press('Control+z');
    await page.getByRole('radio', { name: 'the seconds' }).click();
    await typeInto(page, field(page, 'Tempo in BPM'), '60');
    await press(page, 'Set the tempo');
    const same = secondsWithMido(await exportByKey(page));
    expect(same).toEqual(SIXTEEN.map((_, i) => expect.closeTo(i / 2, 3)));
    // Half as many ticks from there on.
    expect((await notesNow(page)).map((n) => n.start).slice(3, 7)).toEqual([2880, 3840, 4320, 4800]);
    await page.keyboard.press('Control+z');
    await page.getByRole('radio', { name: 'the bars' }).click();
    for (const [name, text] of [
      ['First tempo of the ramp', '120'],
      ['Last tempo of the ramp', '60'],
      ['Bars of the ramp', '2'],
    ]) {
      await typeInto(page, field(page, name), text);
    }
    await press(page, 'Ramp');
    await expect.poll(() => lastStep(page)).toBe('Ramp from 120 BPM to 60 BPM');
    // source: the integral of 60/BPM over the beats, for a tempo that falls evenly from 120 to 60 over 8 of them.
    const ramp = (beats: number) => 2 + -8 * Math.log(1 - beats / 16);
    const heard = secondsWithMido(await exportByKey(page));
    for (let beat = 0; beat < 8; beat++) expect(Math.abs(heard[4 + beat] - ramp(beat))).toBeLessThan(0.0006);
    for (const wrong of ['0', '1000000']) {
      await typeInto(page, field(page, 'Tempo in BPM'), wrong);
      await press(page, 'Set the tempo');
      await expect(page.getByText('Type a tempo from 4 to 1,000 BPM.')).toBeVisible();
      expect(await lastStep(page)).toBe('Ramp from 120 BPM to 60 BPM');
      await page.keyboard.press('Escape');
      await expect(strip(page)).toHaveCount(0);
      await openStrip(page, '2');
    }
    await closeStrip(page);
  });

  await test.step('whole bars are inserted in all tracks and cut out again, by keys alone', async () => {
    await openNotes(page, 'Bars', SIXTEEN);
    const before = (await notesNow(page)).map((n) => n.start);
    await openStrip(page, '3');
    await typeInto(page, field(page, 'How many bars'), '2');
    await tabTo(page, strip(page).getByRole('button', { name: 'Insert', exact: true }));
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Insert 2 bars');
    expect((await notesNow(page)).map((n) => n.start)).toEqual(before.map((s) => (s < 2 * BAR ? s : s + 2 * BAR)));
    await tabTo(page, strip(page).getByRole('button', { name: 'Cut out', exact: true }));
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Cut out 2 bars');
    expect((await notesNow(page)).map((n) => n.start)).toEqual(before);
    // The first bar goes: what is behind it begins the song.
    await typeInto(page, field(page, 'Place'), '1');
    await page.keyboard.press('Enter');
    await typeInto(page, field(page, 'How many bars'), '1');
    await press(page, 'Cut out');
    expect((await notesNow(page)).map((n) => n.start)).toEqual(before.slice(4).map((s) => s - BAR));
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    expect((await notesNow(page)).map((n) => n.start)).toEqual(before);
    await closeStrip(page);
  });

  await test.step('a meter that cuts a bar short is said, and so is a marker whose name is too long', async () => {
    await openNotes(page, 'Odd', SIXTEEN);
    await openStrip(page, '3');
    await press(page, 'Set the meter');
    await expect.poll(() => lastStep(page)).toBe('Set the meter to 4/4');
    await typeInto(page, field(page, 'Place'), '1');
    await page.keyboard.press('Enter');
    await typeInto(page, field(page, 'Beats a bar'), '3');
    await press(page, 'Set the meter');
    // Two bars of 4/4 hold two of 3/4 and two beats.
    await expect(page.getByText('Bar 3 is cut short by the meter that begins behind it.')).toBeVisible();
    expect(await events(page, /Time_signature/)).toEqual(['0 Time_signature 3 2 24 8', '7680 Time_signature 4 2 24 8']);
    await field(page, 'Name of a marker').click();
    await page.keyboard.insertText('x'.repeat(10_000));
    await press(page, 'Add a marker');
    await expect(page.getByText(/at most 1,000 letters; this one has 10,000/)).toBeVisible();
    expect(await events(page, /Marker/)).toEqual([]);
    // What was typed is still there to be shortened.
    await expect(field(page, 'Name of a marker')).toHaveValue(/^x{10000}$/);
    await closeStrip(page);
  });

  await test.step('meter, key and markers are set, changed in the list, and are in the file; a reload keeps them', async () => {
    await openNotes(page, 'Named', SIXTEEN);
    await openStrip(page, '2.3');
    await typeInto(page, field(page, 'Beats a bar'), '3');
    await press(page, 'Set the meter');
    await choose(page, 'Key', 'B♭ major');
    await press(page, 'Set the key');
    await typeInto(page, field(page, 'Name of a marker'), 'The ferry leaves');
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Add a marker');
    // The meter begins with the bar; the rest on the beat.
    expect(await events(page, /Time_signature|Key_signature|Marker/)).toEqual([
      `${BAR} Time_signature 3 2 24 8`,
      `${BAR + 1920} Marker_t "The ferry leaves"`,
      `${BAR + 1920} Key_signature -2 "major"`,
    ]);
    const list = strip(page).getByRole('list');
    await typeInto(page, list.getByLabel('Beats a bar at 2.1.1'), '5');
    await page.keyboard.press('Enter');
    await choose(page, 'Note value of a beat at 2.1.1', '8');
    const row = list.getByRole('listitem').last();
    await typeInto(page, row.getByLabel(/^Name of the marker/), 'At sea');
    await page.keyboard.press('Enter');
    await typeInto(page, row.getByLabel(/^Place of marker/), '1.2');
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Move a marker');
    const changed = [`960 Marker_t "At sea"`, `${BAR} Time_signature 5 3 12 8`];
    expect(await events(page, /Time_signature|Marker/)).toEqual(changed);
    await reload(page);
    await expect(page.getByRole('heading', { name: 'Named' }).first()).toBeVisible();
    expect(await events(page, /Time_signature|Marker/)).toEqual(changed);
    await page.keyboard.press('Shift+B');
    await strip(page).getByRole('button', { name: 'Remove meter at 2.1.1' }).click();
    await strip(page)
      .getByRole('button', { name: /Remove marker/ })
      .click();
    expect(await events(page, /Time_signature|Marker/)).toEqual([]);
    // What makes no sense is refused, and what was there stays.
    await typeInto(page, field(page, 'Beats a bar'), '0');
    await press(page, 'Set the meter');
    await expect(page.getByText(/A meter has 1 to 64 beats/)).toBeVisible();
    await expect.poll(() => lastStep(page)).toBe('Remove a marker');
    await closeStrip(page);
  });

  await test.step('a song of more than 24 hours is refused in a sentence, and nothing is done', async () => {
    await openNotes(page, 'Long', SIXTEEN);
    await openStrip(page, '1');
    await typeInto(page, field(page, 'Tempo in BPM'), '4');
    await press(page, 'Set the tempo');
    await expect.poll(() => lastStep(page)).toBe('Set the tempo to 4 BPM');
    await page.keyboard.press('Shift+P');
    const parts = page.getByRole('region', { name: 'Parts' });
    await typeInto(page, parts.getByLabel('How many times'), '2000');
    await parts.getByRole('button', { name: 'Repeat' }).click();
    await expect(page.getByText(/The song would last 13\d hours; a song can last 24\./)).toBeVisible();
    await expect.poll(() => lastStep(page)).toBe('Set the tempo to 4 BPM');
    expect(await notesNow(page)).toHaveLength(16);
  });
});

test('a second tab reads: it shows what the first one does, and changes neither time nor parts nor tracks', async ({
  page,
}) => {
  await openNotes(page, 'Two tabs', SIXTEEN);
  const before = await notesNow(page);
  const reader = await page.context().newPage();
  await withoutFileWindows(reader);
  await reader.goto(page.url());
  await expect(reader.getByText(/This song is being edited in another tab/).first()).toBeVisible();
  await openStrip(reader, '2');
  const refused = reader.getByText(/Take over|another tab/).first();
  await press(reader, 'Insert');
  await typeInto(reader, field(reader, 'Name of a marker'), 'Mine');
  await reader.keyboard.press('Enter');
  await press(reader, 'Set the meter');
  await expect(refused).toBeVisible();
  await reader.keyboard.press('Shift+P');
  await reader.getByRole('region', { name: 'Parts' }).getByRole('button', { name: 'A bar later' }).click();
  await reader.getByRole('button', { name: 'Add a track' }).click();
  await expect(reader.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
  await expect(reader.getByRole('list', { name: 'Tracks', exact: true }).getByRole('listitem')).toHaveCount(1);
  expect(await notesNow(reader)).toEqual(before);
  // What the writer does is there.
  await openStrip(page, '2');
  await typeInto(page, field(page, 'Name of a marker'), 'Theirs');
  await page.keyboard.press('Enter');
  await press(page, 'Insert');
  await expect.poll(() => lastStep(page)).toBe('Insert one bar');
  await expect
    .poll(async () => (await notesNow(reader)).map((n) => n.start))
    .toEqual(before.map((n) => (n.start < BAR ? n.start : n.start + BAR)));
  await reader.keyboard.press('Shift+B');
  await expect(
    strip(reader)
      .getByRole('listitem')
      .last()
      .getByLabel(/^Name of the marker/),
  ).toHaveValue('Theirs');
});
