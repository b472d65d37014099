import { expect, test, type Page } from '@playwright/test';
import { choose, typeInto } from './hands';
import { lastStep, notesNow, openNotes } from './shaping';
import { exportByKey, midicsv, midiFile, openSongs, plainNote, roll, secondsWithMido } from './support';

const FOUR = Array.from({ length: 4 }, (_, i) => plainNote(i, i * 960, 60));
/** The same four quarters in bar 3 of a file at 60 BPM. */
const SLOW = slowed(
  midiFile(
    'Slow',
    FOUR.map((n) => ({ ...n, start: n.start + 2 * 3840, pitch: 72 })),
  ),
);

/** A file whose tempo is half as fast: its default one is made explicit in front of its first event. */
function slowed(file: { name: string; mimeType: string; buffer: Buffer }) {
  const bytes = [...file.buffer];
  const track = file.buffer.indexOf('MTrk');
  const length = file.buffer.readUInt32BE(track + 4);
  // Delta 0, FF 51 03, 1,000,000 µs a quarter (Standard MIDI Files 1.0, RP-001).
  bytes.splice(track + 8, 0, 0, 0xff, 0x51, 3, 0x0f, 0x42, 0x40);
  const buffer = Buffer.from(bytes);
  buffer.writeUInt32BE(length + 7, track + 4);
  return { ...file, buffer };
}

const strip = (page: Page) => page.getByRole('region', { name: 'Bring in a MIDI file' });

async function bringFile(page: Page, file: { name: string; mimeType: string; buffer: Buffer }): Promise<void> {
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await page.getByRole('menuitem', { name: 'MIDI file into this song' }).click();
  await (await chooser).setFiles(file);
}

test('a MIDI file comes into the open song: by its bars, its seconds, with its tempo, at the playhead; a damaged one does not', async ({
  page,
}) => {
  await test.step('a damaged file does not come in: a sentence says so, and the song is as it was', async () => {
    await openNotes(page, 'Here', FOUR);
    const before = (await exportByKey(page)).toString('base64');
    await bringFile(page, { ...SLOW, name: 'Broken.mid', buffer: Buffer.from('This is no music.') });
    await expect(page.getByText(/“Broken.mid” was not opened\. .*ends in \.mid/)).toBeVisible();
    await expect(strip(page)).toHaveCount(0);
    expect((await exportByKey(page)).toString('base64')).toBe(before);
  });

  await test.step('a MIDI file comes into the open song: by its bars, its seconds, with its tempo, at the playhead', async () => {
    await openNotes(page, 'Here', FOUR);
    const startsOf = async () => (await notesNow(page)).filter((n) => n.pitch === 72).map((n) => n.start);
    await bringFile(page, SLOW);
    await expect(strip(page)).toContainText('one track, 4 notes, 60 BPM, 4/4');
    await strip(page).getByRole('button', { name: 'Bring it in' }).click();
    await expect.poll(() => lastStep(page)).toBe('Bring in Slow');
    await expect(strip(page)).toHaveCount(0);
    expect(await startsOf()).toEqual([7680, 8640, 9600, 10_560]);
    expect((await notesNow(page)).filter((n) => n.pitch === 60)).toHaveLength(4);
    // The new track is the one at which the desk is now.
    await expect(page.getByRole('heading', { name: 'Slow' })).toBeVisible();
    await page.keyboard.press('Control+z');
    await bringFile(page, SLOW);
    await strip(page).getByRole('radio', { name: 'as fast as it was' }).click();
    await strip(page).getByRole('button', { name: 'Bring it in' }).click();
    // Bar 3 of it begins after 8 seconds.
    await expect.poll(async () => secondsWithMido(await exportByKey(page)).slice(4)).toEqual([8, 9, 10, 11]);
    await page.keyboard.press('Control+z');
    // At the playhead, which is in bar 2: its first bar with notes begins there, and the song takes its tempo.
    const r = await roll(page);
    await page.mouse.click(r.at(3840) + 9, r.barsY);
    await bringFile(page, SLOW);
    await strip(page).getByRole('radio', { name: 'the song takes its tempo' }).click();
    await strip(page).getByRole('radio', { name: 'at the playhead' }).click();
    await strip(page).getByRole('button', { name: 'Bring it in' }).click();
    await expect.poll(() => lastStep(page)).toBe('Bring in Slow');
    const seconds = secondsWithMido(await exportByKey(page));
    const starts = await startsOf();
    expect(starts).toEqual([3840, 4800, 5760, 6720]);
    expect(seconds.at(-1)! - seconds.at(-2)!).toBeCloseTo(1, 3);
    await page.keyboard.press('Control+z');
    expect(await startsOf()).toEqual([]);
  });
});

test('a new song has its tempo, meter and first track, and can begin with recording or a file', async ({ page }) => {
  await openSongs(page);
  await page.getByRole('button', { name: 'New song' }).click();
  const form = page.getByRole('form', { name: 'New song' });
  await expect(form.getByLabel('Name')).toBeFocused();
  await page.keyboard.type('Gangway');
  await typeInto(page, form.getByLabel('Tempo'), '0');
  await form.getByRole('button', { name: 'Create', exact: true }).click();
  await expect(form.getByRole('alert')).toHaveText('Type a tempo from 4 to 1,000 BPM.');
  await typeInto(page, form.getByLabel('Tempo'), '96.5');
  await typeInto(page, form.getByLabel('Beats a bar'), '6');
  await choose(page, 'Note value of a beat', '8');
  await choose(page, 'Instrument of the first track', 'Acoustic bass');
  await form.getByRole('button', { name: 'Create and record' }).click();
  await page.waitForURL(/\/song\//);
  await expect(page.getByRole('heading', { name: 'Gangway' })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Tracks' })).toContainText('Acoustic bass');
  await expect(page.getByRole('region', { name: 'Input' })).toBeVisible();
  const lines = midicsv(await exportByKey(page)).join('\n');
  expect(lines).toMatch(/0, Tempo, 621762/);
  expect(lines).toMatch(/0, Time_signature, 6, 3, 36, 8/);
  await page.getByRole('link', { name: 'All songs' }).click();
  await page.getByRole('button', { name: 'New song' }).click();
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Create and bring in a file' }).click();
  await (await chooser).setFiles(SLOW);
  // An empty song takes the file's tempo unless it is told otherwise.
  await strip(page).getByRole('button', { name: 'Bring it in' }).click();
  await expect.poll(() => lastStep(page)).toBe('Bring in Slow');
  await expect(page.getByRole('button', { name: /60\.0 BPM/ })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Tracks' }).getByRole('listitem')).toHaveCount(2);
});
