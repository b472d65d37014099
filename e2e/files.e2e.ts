import { readFileSync, writeFileSync } from 'node:fs';
import { expect, test, type Browser, type Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import { carry, choose, dropFiles } from './hands';
import { copyMidiElsewhere, draggedFile, midiOnClipboard, savedFile, watchDrags, withSaveWindow } from './files';
import { lastStep } from './shaping';
import {
  exportMidi,
  importFile,
  listened,
  openDemo,
  openSongs,
  played,
  readMidi,
  reload,
  selectTrack,
  withoutFileWindows,
} from './support';

/** Presses something and gives the file that is downloaded for it. */
async function downloaded(
  page: Page,
  press: () => Promise<void>,
): Promise<{ name: string; bytes: Buffer; path: string }> {
  const download = page.waitForEvent('download');
  await press();
  const file = await download;
  return { name: file.suggestedFilename(), bytes: readFileSync(await file.path()), path: await file.path() };
}

const songFile = (page: Page) =>
  downloaded(page, async () => {
    await page.getByRole('button', { name: 'Export', exact: true }).click();
    await page.getByRole('menuitem', { name: 'Song file' }).click();
  });
const saveFile = (page: Page) => downloaded(page, () => page.getByRole('button', { name: 'Save the file' }).click());

/** A desk in a browser of its own. */
async function otherBrowser(browser: Browser): Promise<Page> {
  const context = await browser.newContext();
  const page = await context.newPage();
  await openSongs(page);
  return page;
}

test('a song goes from one browser to another by its file: history, treatment and MIDI export, to the byte', async ({
  page,
  browser,
}, info) => {
  await openDemo(page);
  await selectTrack(page, /Electric piano/);
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await expect.poll(() => lastStep(page)).toBeTruthy();
  const midi = await exportMidi(page, 'corrected');
  const { name, bytes } = await songFile(page);
  expect(name).toBe('Night Ferry.sparrow');
  const path = info.outputPath(name);
  writeFileSync(path, bytes);
  const other = await otherBrowser(browser);
  await importFile(other, path);
  await expect(other.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
  expect(await exportMidi(other, 'corrected')).toEqual(midi);
  // What was done there can be undone here.
  await other.getByRole('button', { name: 'Undo', exact: true }).click();
  expect(await exportMidi(other, 'corrected')).toEqual(await exportMidi(other, 'as played'));
  // It is kept, and written again it is the same song.
  await other.getByRole('button', { name: 'Redo', exact: true }).click();
  await reload(other);
  expect(await exportMidi(other, 'corrected')).toEqual(midi);
  await other.context().close();
});

test('damaged and foreign files are refused in a sentence; what is whole of a cut-off one opens', async ({
  page,
}, info) => {
  await openDemo(page);
  const { bytes } = await songFile(page);
  const at = (name: string, data: Buffer | string) => {
    const path = info.outputPath(name);
    writeFileSync(path, data);
    return path;
  };
  await page.getByRole('link', { name: 'All songs' }).click();
  const cut = bytes.subarray(0, 9000);
  await dropFiles(page, [
    at('cut.sparrow', cut),
    at('letter.sparrow', 'Dear Jo'),
    at('short.sparrow', bytes.subarray(0, 40)),
  ]);
  await expect(page.getByText('0 of 3 were opened.')).toBeVisible();
  await expect(page.getByText(/“cut.sparrow” was not opened. It is cut off before the song in it ends./)).toBeVisible();
  await expect(page.getByText(/“letter.sparrow” was not opened. It is no song file/)).toBeVisible();
  await expect(page.getByText(/“short.sparrow” was not opened. It is cut off right at its start./)).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
  // The list of contents at its end is missing, the song is not; a zip file by another name is known by its bytes.
  await dropFiles(page, [at('end missing.zip', bytes.subarray(0, bytes.length - 30))]);
  await expect(
    page.getByText('“end missing.zip” was opened. The file is cut off. The song in it is whole.'),
  ).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
});

test('a song is saved into its file again, which stays whole until the new one is', async ({ page, context }) => {
  await withSaveWindow(page, 'ferry.sparrow');
  await page.goto('/');
  await page.waitForURL(/\/song\//);
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
  await page.keyboard.press('Control+Shift+s');
  await expect(page.getByText('“ferry.sparrow” was written.')).toBeVisible();
  const first = (await savedFile(page, 'ferry.sparrow'))!;
  const nameIn = (file: Buffer) => JSON.parse(Buffer.from(unzipSync(file)['song.json']).toString()).name;
  expect(nameIn(first)).toBe('Night Ferry');
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await expect.poll(() => lastStep(page)).toBeTruthy();
  await reload(page);
  await listened(page);
  // After a reload too it is known where the song lies, and nobody is asked.
  await page.keyboard.press('Control+Shift+s');
  await expect(page.getByText('“ferry.sparrow” was written.')).toBeVisible();
  const second = (await savedFile(page, 'ferry.sparrow'))!;
  expect(second).not.toEqual(first);
  expect(JSON.parse(Buffer.from(unzipSync(second)['history.json']).toString()).undo).toHaveLength(1);
  // A tab that is closed right in the middle of saving leaves the file as it was, or as it was to be.
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  await page.keyboard.press('Control+Shift+s');
  await page.close();
  const after = await context.newPage();
  await openSongs(after);
  const third = (await savedFile(after, 'ferry.sparrow'))!;
  expect([1, 2]).toContain(JSON.parse(Buffer.from(unzipSync(third)['history.json']).toString()).undo.length);
  expect(nameIn(third)).toBe('Night Ferry');
});

test('the file is dragged out of the window, and whatever is wanted is exported', async ({ page }) => {
  await watchDrags(page);
  await openDemo(page);
  await test.step('the file is dragged out of the window', async () => {
    await page.keyboard.press('Shift+d');
    const chip = page.getByTitle(/Drag it to the desktop/);
    await chip.hover();
    await expect(chip).toContainText('Night Ferry (corrected).mid');
    const box = (await chip.boundingBox())!;
    await carry(page, [box.x + 60, box.y + 12], [640, 300]);
    await expect.poll(() => draggedFile(page)).not.toBeNull();
    const file = (await draggedFile(page))!;
    expect(file.name).toBe('Night Ferry (corrected).mid');
    await page.mouse.up();
    expect(file.bytes).toEqual(await exportMidi(page, 'corrected'));
    await page.keyboard.press('Escape');
    await expect(page.getByRole('region', { name: 'Export' })).toHaveCount(0);
  });

  await test.step('a track, a loop, a selection, each track by itself and the list of notes are exported', async () => {
    await selectTrack(page, /Upright bass/);
    await page.keyboard.press('Shift+d');
    await expect(page.getByRole('region', { name: 'Export' })).toBeVisible();
    await choose(page, 'What is exported', /track “Upright bass”/);
    await page.getByRole('radio', { name: 'as played' }).last().click();
    const track = await saveFile(page);
    expect(track.name).toBe('Night Ferry, Upright bass (as played).mid');
    expect(readMidi(track.bytes).notes).toHaveLength(played(2).length);
    await choose(page, 'Kind of file', 'a MIDI file for each track');
    await choose(page, 'What is exported', 'whole song');
    const each = unzipSync((await saveFile(page)).bytes);
    expect(Object.keys(each)).toEqual([
      '02 Marimba.mid',
      '03 Upright bass.mid',
      '04 Brush kit.mid',
      '05 Electric piano.mid',
      '06 Clarinet.mid',
    ]);
    await choose(page, 'Kind of file', 'list of notes (CSV)');
    await choose(page, 'What is exported', /track “Upright bass”/);
    const rows = (await saveFile(page)).bytes.toString().trim().split('\r\n');
    expect(rows).toHaveLength(1 + played(2).length);
    expect(rows[1]).toMatch(/^Upright bass,/);
    // Notes that are selected join the list of what can be exported.
    await page.getByRole('heading', { name: 'Night Ferry' }).click();
    await page.keyboard.press('Control+a');
    await choose(page, 'Kind of file', 'MIDI file');
    await choose(page, 'What is exported', /selection, \d+ notes/);
    await page.getByRole('radio', { name: 'from bar 1' }).click();
    const selection = await saveFile(page);
    expect(selection.name).toBe('Night Ferry, selection (as played).mid');
    expect(readMidi(selection.bytes).notes).toHaveLength(played(2).length);
    await page.keyboard.press('Escape');
    await expect(page.getByRole('region', { name: 'Export' })).toHaveCount(0);
  });
});

test('notes go to other programs as a MIDI file by the clipboard, and come from them', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await withoutFileWindows(page);
  await openDemo(page);
  await selectTrack(page, /Upright bass/);
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Control+c');
  await expect(page.getByText(/^Copied \d+ notes\.$/)).toBeVisible();
  let copied: Buffer = Buffer.alloc(0);
  await expect.poll(async () => (copied = await midiOnClipboard(page)).length).toBeGreaterThan(100);
  expect(readMidi(copied).notes).toHaveLength(played(2).length);
  // In another tab and another song: the file that some program has put there becomes notes.
  const other = await context.newPage();
  await openSongs(other);
  await other.getByRole('button', { name: 'New song' }).click();
  await other.getByRole('button', { name: 'Create', exact: true }).click();
  await other.waitForURL(/\/song\//);
  await expect(other.getByText(/This track is empty/)).toBeVisible();
  await copyMidiElsewhere(other, copied);
  await other.keyboard.press('Control+v');
  await expect.poll(() => lastStep(other)).toBe(`Paste ${played(2).length} notes`);
});
