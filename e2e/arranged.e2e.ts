import { expect, test, type Page } from '@playwright/test';
import { boxOf, choose, drag, pressTwice, typeInto } from './hands';
import { lastStep, runCommand } from './shaping';
import {
  byStart,
  exportByKey,
  importFile,
  OPENMSX,
  openSongs,
  plainNote,
  midiFile,
  readMidi,
  roll,
  secondsWithMido,
  selectTrack,
  type FileNote,
} from './support';

const BAR = 3840;
const BARS = 'Tempo, meter, markers and key';
const strip = (page: Page, name: string) => page.getByRole('region', { name, exact: true });
const press = (page: Page, where: string, name: string) =>
  strip(page, where).getByRole('button', { name, exact: true }).click();
const done = (page: Page, name: string | RegExp) => expect.poll(() => lastStep(page)).toMatch(name);
const notesOf = async (page: Page): Promise<FileNote[]> => readMidi(await exportByKey(page)).notes;
/** Notes as text, in an order of their own: of two lists of notes that are the same. */
const told = (notes: readonly FileNote[]): string[] =>
  notes.map((n) => `${n.track} ${n.channel} ${n.pitch} ${n.start} ${n.end} ${n.velocity}`).sort();
const later = (by: number) => (n: FileNote) => ({ ...n, start: n.start + by, end: n.end + by });

async function place(page: Page, text: string): Promise<void> {
  await typeInto(page, strip(page, BARS).getByLabel('Place', { exact: true }), text);
  await page.keyboard.press('Enter');
}

test('a real file of several tracks is arranged anew, its tempo changed both ways: every note is where it has to be', async ({
  page,
}) => {
  await openSongs(page);
  await importFile(page, `${OPENMSX}/coconut_run2.mid`);
  await page.waitForURL(/\/song\//);
  await expect(page.getByRole('list', { name: 'Tracks', exact: true }).getByRole('listitem').first()).toBeVisible();
  // 480 ticks a quarter in the file are 960 here; 4/4 throughout.
  const before = await notesOf(page);
  expect(before.length).toBe(843);
  await page.keyboard.press('Shift+B');
  await place(page, '5');
  await typeInto(page, strip(page, BARS).getByLabel('How many bars'), '2');
  await press(page, BARS, 'Insert');
  await done(page, 'Insert 2 bars');
  const wide = before.map((n) => (n.start < 4 * BAR ? n : later(2 * BAR)(n)));
  // A note that begins in front of the new bars rings on over their line.
  expect(told(await notesOf(page))).toEqual(told(wide));
  // Keep the seconds: all sounds when it did, to half a tick.
  const heard = secondsWithMido(await exportByKey(page));
  await page.getByRole('radio', { name: 'the seconds' }).click();
  await place(page, '3');
  await typeInto(page, strip(page, BARS).getByLabel('Tempo in BPM'), '77');
  await press(page, BARS, 'Set the tempo');
  await done(page, 'Set the tempo to 77 BPM');
  const steady = secondsWithMido(await exportByKey(page));
  expect(steady).toHaveLength(heard.length);
  expect(Math.max(...steady.map((s, i) => Math.abs(s - heard[i])))).toBeLessThan(0.0009);
  await page.keyboard.press('Control+z');
  // Keep the bars: all lies where it did, and from bar 9 on it sounds at the new tempo.
  await page.getByRole('radio', { name: 'the bars' }).click();
  await place(page, '9');
  await typeInto(page, strip(page, BARS).getByLabel('Tempo in BPM'), '60');
  await press(page, BARS, 'Set the tempo');
  await done(page, 'Set the tempo to 60 BPM');
  expect(told(await notesOf(page))).toEqual(told(wide));
  const slow = secondsWithMido(await exportByKey(page));
  const nine = 8 * BAR;
  const [last] = byStart(wide).slice(-1);
  const ninthAt = heard[wide.filter((n) => n.start < nine).length];
  // A second a beat from there to the last note.
  const firstBehind = Math.min(...wide.filter((n) => n.start >= nine).map((n) => n.start));
  expect(slow[slow.length - 1] - ninthAt).toBeCloseTo((last.start - firstBehind) / 960, 1);
  await page.keyboard.press('Control+z');
  // One track's part is cut at a bar line, its end goes a bar later and comes back, and both are joined again.
  await page.keyboard.press('Escape');
  // It is cut where notes of it lie on both sides.
  const name = page.getByRole('list', { name: 'Tracks', exact: true }).getByRole('listitem').first();
  await name.getByRole('button').first().click();
  const track = Math.min(...wide.map((n) => n.track));
  const starts = byStart(wide.filter((n) => n.track === track)).map((n) => n.start);
  const at = starts[Math.floor(starts.length * 0.7)];
  await page.keyboard.press('Shift+P');
  await page.keyboard.press('v');
  const r = await roll(page);
  const overview = await boxOf(page.locator('es-overview'));
  const end = Math.ceil(Math.max(...wide.map((n) => n.end)) / BAR) * BAR;
  const share = (at + 60) / end;
  await page.mouse.click(overview.x + share * overview.width, overview.y + 24);
  await page.mouse.click(r.x + 76 + share * (r.width - 88), r.barsY);
  await press(page, 'Parts', 'Cut at the playhead');
  await done(page, /^Cut /);
  const cut = await notesOf(page);
  expect(told(cut)).toEqual(told(wide));
  await press(page, 'Parts', 'A bar later');
  await done(page, /^Move /);
  const moved = await notesOf(page);
  const stays = moved.filter((n) => n.track !== track);
  expect(told(stays)).toEqual(told(wide.filter((n) => n.track !== track)));
  const own = byStart(wide.filter((n) => n.track === track)).map((n) => n.start);
  const now = byStart(moved.filter((n) => n.track === track)).map((n) => n.start);
  const left = now.filter((s, i) => s === own[i]).length;
  expect(left).toBeGreaterThan(0);
  expect(now.slice(left)).toEqual(own.slice(left).map((s) => s + BAR));
  await press(page, 'Parts', 'A bar earlier');
  await runCommand(page, 'undo');
  await runCommand(page, 'undo');
  await runCommand(page, 'undo');
  await runCommand(page, 'undo');
  expect(told(await notesOf(page))).toEqual(told(before));
});

test('from nothing to a song of four tracks', async ({ page }) => {
  await openSongs(page);
  await page.getByRole('button', { name: 'New song' }).click();
  // The form is fetched when it is first opened.
  await expect(page.getByRole('form', { name: 'New song' }).getByLabel('Name')).toBeFocused();
  await page.keyboard.type('Night watch');
  await typeInto(page, page.getByLabel('Tempo'), '96');
  await choose(page, 'Instrument of the first track', 'Vibraphone');
  await page.getByRole('button', { name: 'Create', exact: true }).click();
  await page.waitForURL(/\/song\//);
  const r = await roll(page);
  const y = r.y + 200;
  // A run of sixteenths, a bar long.
  await page.keyboard.down('Shift');
  await pressTwice(page, [r.at(0) + 4, y]);
  await page.mouse.move(r.at(BAR - 200), y - 40, { steps: 20 });
  await page.mouse.up();
  await page.keyboard.up('Shift');
  await done(page, /^Draw /);
  const figure = (await notesOf(page)).length;
  expect(figure).toBeGreaterThan(12);
  // Three more of it behind.
  await page.keyboard.press('Shift+P');
  await typeInto(page, strip(page, 'Parts').getByLabel('How many times'), '3');
  await press(page, 'Parts', 'Repeat');
  await done(page, /^Repeat /);
  expect(await notesOf(page)).toHaveLength(4 * figure);
  // A bass: a track with its instrument, and a note a beat.
  await page.getByRole('button', { name: 'Add a track' }).click();
  await page.keyboard.press('Shift+I');
  await typeInto(page, strip(page, 'Track').getByLabel('Name of the track'), 'Bass');
  await page.keyboard.press('Enter');
  await choose(page, 'Instrument', 'Acoustic bass');
  await page.keyboard.press('Escape');
  for (let beat = 0; beat < 4; beat++) {
    await page.mouse.dblclick(r.at(beat * 960) + 4, y);
    await expect.poll(async () => (await notesOf(page)).length).toBe(4 * figure + beat + 1);
  }
  // The keys double it an octave higher: a copy of the track, transposed.
  await runCommand(page, 'duplicate the track');
  await page.keyboard.press('Shift+I');
  await typeInto(page, strip(page, 'Track').getByLabel('Name of the track'), 'Keys');
  await page.keyboard.press('Enter');
  await typeInto(page, strip(page, 'Track').getByLabel('Transposition in semitones'), '12');
  await page.keyboard.press('Enter');
  await done(page, 'Transpose Keys');
  // A melody comes in from a file, at its own bars.
  const melody = Array.from({ length: 6 }, (_, i) => plainNote(i, BAR + i * 640, 72 + i));
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await page.getByRole('menuitem', { name: 'MIDI file into this song' }).click();
  await (await chooser).setFiles(midiFile('Melody', melody));
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await done(page, 'Bring in Melody');
  // All parts are chosen by a frame, and brought onto their lines together.
  await page.keyboard.press('Shift+O');
  await expect(page.getByRole('list', { name: 'Tracks of the song view' }).getByRole('listitem')).toHaveCount(4);
  // The song view has its full height only once it is laid out.
  await expect.poll(async () => (await boxOf(page.locator('es-overview'))).height).toBeGreaterThan(300);
  const view = await boxOf(page.locator('es-overview'));
  await drag(page, [view.x + view.width - 4, view.y + view.height - 6], [view.x + 6, view.y + 24]);
  await page.keyboard.press('Shift+P');
  await expect(strip(page, 'Parts')).toContainText('7 parts');
  await page.keyboard.press('Escape');
  // A marker, and a slower end.
  await page.keyboard.press('Shift+B');
  await place(page, '2');
  await typeInto(page, strip(page, BARS).getByLabel('Name of a marker'), 'Melody');
  await page.keyboard.press('Enter');
  await place(page, '4');
  await typeInto(page, strip(page, BARS).getByLabel('Last tempo of the ramp'), '72');
  await typeInto(page, strip(page, BARS).getByLabel('Bars of the ramp'), '1');
  await press(page, BARS, 'Ramp');
  await done(page, /^Ramp from 96 BPM to 72 BPM/);
  const file = readMidi(await exportByKey(page));
  expect(new Set(file.notes.map((n) => n.track)).size).toBe(4);
  expect(file.notes).toHaveLength(4 * figure + 8 + 6);
  expect(file.tempi[0]).toEqual([0, 625_000]);
  expect(file.tempi[file.tempi.length - 1]).toEqual([4 * BAR, 833_333]);
  const pitches = (t: number) => byStart(file.notes.filter((n) => n.track === t)).map((n) => n.pitch);
  const [, bass, keys] = [...new Set(file.notes.map((n) => n.track))].sort((a, b) => a - b);
  expect(pitches(keys)).toEqual(pitches(bass).map((p) => p + 12));
  await selectTrack(page, /Melody/);
});
