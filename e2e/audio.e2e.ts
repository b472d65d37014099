import { readFileSync, writeFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { readWav, type Recording } from '@early-sparrow/core/audio';
import { writeWav } from '@early-sparrow/core/sound';
import { drumLoop, LOOP_RATE } from '../core/test/drum-loop';
import { choose, dropFiles } from './hands';
import {
  byStart,
  exported,
  importFile,
  listened,
  midiFile,
  openSongs,
  plainNote,
  reload,
  roll,
  selectTrack,
} from './support';

/** Thirty-two straight sixteenths of a closed hi-hat, from bar 1 on. */
const HATS = Array.from({ length: 32 }, (_, i) => ({ ...plainNote(i, i * 240, 42), channel: 9, length: 60 }));

const LOOP = drumLoop(0.625).samples;

/** Opens the loop as an audio file, up to where one says how it is to lie in the song. */
async function bringIn(page: Page): Promise<void> {
  await page.keyboard.press('m');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Import a sound file …' }).click();
  const buffer = Buffer.from(writeWav(LOOP, LOOP, LOOP_RATE, 16));
  await (await chooser).setFiles({ name: 'harbour loop.wav', mimeType: 'audio/wav', buffer });
  await expect(page.getByText(/harbour loop: 4.00 s, 3\d hits/)).toBeVisible();
}

/** The hits of the loop in the exported file, as ticks. */
async function hitsIn(page: Page): Promise<number[]> {
  return byStart(await exported(page, 2)).map((n) => n.start);
}

/** The whole song as the application writes it into a WAV file. */
async function written(page: Page): Promise<Recording> {
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export WAV', exact: true }).click();
  return readWav(readFileSync(await (await download).path()));
}

test('an audio file plays along: it is heard, drawn, in the WAV file, and there after a reload', async ({ page }) => {
  await openSongs(page);
  await importFile(page, midiFile('Straight hats', HATS));
  await listened(page);
  await bringIn(page);
  await page.getByRole('button', { name: 'Add as a track' }).click();
  const bar = page.getByRole('group', { name: 'Sound file' });
  await expect(bar).toContainText('at its own speed');
  // The hats are muted: what sounds is the file.
  await page.getByRole('button', { name: 'Mute Straight hats' }).click();
  const compare = async () => {
    const { samples, rate } = await written(page);
    expect(rate).toBe(48_000);
    let [both, wav, own] = [0, 0, 0];
    for (let i = 0; i < 150_000; i++) {
      const at = (i * LOOP_RATE) / rate;
      const k = Math.floor(at);
      const s = LOOP[k] + (LOOP[k + 1] - LOOP[k]) * (at - k);
      [both, wav, own] = [both + s * samples[i], wav + samples[i] ** 2, own + s * s];
    }
    return both / Math.sqrt(wav * own);
  };
  expect(await compare()).toBeGreaterThan(0.98);
  await page.keyboard.press('m');
  await page.keyboard.press('Space');
  await expect(page.getByRole('meter', { name: 'Loudness' })).toHaveAttribute('aria-valuenow', /^-[1-4]?\d$/);
  await page.keyboard.press('Space');
  await reload(page);
  await selectTrack(page, 'harbour loop');
  await expect(bar).toContainText('at its own speed');
  await page.keyboard.press('m');
  expect(await compare()).toBeGreaterThan(0.98);
  // Its hits are heard in its place, by undoing again the file.
  await bar.getByRole('radio', { name: 'its hits' }).click();
  expect(await compare()).toBeLessThan(0.7);
  await page.keyboard.press('Control+z');
  expect(await compare()).toBeGreaterThan(0.98);
});

test('an audio file sets the tempo of the song, and its hits are put right by hand', async ({ page }) => {
  await openSongs(page);
  await importFile(page, midiFile('Straight hats', HATS));
  await listened(page);
  await bringIn(page);
  await page.getByRole('button', { name: 'One bar more' }).click();
  await expect(page.getByRole('radio', { name: /fit the song: at 66.7 %/ })).toBeVisible();
  await page.getByRole('radio', { name: 'set the song to 180.0 BPM' }).click();
  await page.getByRole('button', { name: 'Add as a track' }).click();
  await page.keyboard.press('m');
  await expect(page.getByText('180.0 BPM').first()).toBeVisible();
  const found = await hitsIn(page);
  // A press on a hit takes it in hand, Delete takes it away; a double press near its place brings it back.
  const seen = await roll(page);
  const [x, y] = [seen.at(found[3]), seen.laneTop - 30];
  await page.mouse.click(x, y);
  await page.keyboard.press('Delete');
  await expect(page.getByText('Erased one hit.')).toBeVisible();
  expect(await hitsIn(page)).toEqual(found.filter((_, i) => i !== 3));
  await page.mouse.dblclick(x - 3, y);
  const again = await hitsIn(page);
  expect(again.length).toBe(found.length);
  expect(Math.abs(again[3] - found[3])).toBeLessThanOrEqual(4);
  await page.mouse.dblclick(x + 1, y);
  await expect(page.getByText('There is a hit here already.')).toBeVisible();
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await expect(page.getByText('120.0 BPM').first()).toBeVisible();
  await expect(page.getByRole('list', { name: 'Tracks' }).getByRole('button', { name: 'harbour loop' })).toHaveCount(0);
});

test('a drum loop of 62.5 % swing is brought in, measured, and its swing given to a straight part', async ({
  page,
}) => {
  await openSongs(page);
  await importFile(page, midiFile('Straight hats', HATS));
  await listened(page);
  await bringIn(page);
  await expect(page.getByText(/as\s+2\s+bars/)).toBeVisible();
  await page.getByRole('button', { name: 'Add as a track' }).click();
  await page.keyboard.press('m');
  // What fits its hits says how it swings.
  await expect(page.getByRole('button', { name: /Apply 1\/16 ~6[23](\.\d)?%/ }).first()).toBeVisible({
    timeout: 60_000,
  });
  const heard = await page
    .getByRole('button', { name: /Apply 1\/16 ~/ })
    .first()
    .getAttribute('aria-label');
  expect(Math.abs(Number(/~([\d.]+)%/.exec(heard ?? '')?.[1]) - 62.5)).toBeLessThanOrEqual(1);
  await selectTrack(page, 'Straight hats');
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await choose(page, 'Lift from', 'harbour loop');
  await page.getByRole('button', { name: 'Lift the swing' }).click();
  await expect(page.getByLabel('Swing, typed')).toHaveValue(/6[123]/);
  const hats = byStart(await exported(page, 1)).map((n) => n.start);
  const offs = hats.filter((_, i) => i % 2 === 1).map((start) => ((start % 480) / 480) * 100);
  for (const share of offs) expect(Math.abs(share - 62.5)).toBeLessThanOrEqual(1);
});

test('a file that is no sound is refused with a sentence; one that is dropped onto the song is listened to', async ({
  page,
}, info) => {
  await openSongs(page);
  await importFile(page, midiFile('Straight hats', HATS));
  await listened(page);
  await test.step('a file that is no sound is refused with a sentence', async () => {
    await page.keyboard.press('m');
    const chooser = page.waitForEvent('filechooser');
    await page.getByRole('button', { name: 'Import a sound file …' }).click();
    await (
      await chooser
    ).setFiles({ name: 'letter.wav', mimeType: 'audio/wav', buffer: Buffer.from('Dear harbour master') });
    await expect(page.getByText(/letter.wav is not a sound file that this browser can read/)).toBeVisible();
  });

  await test.step('an audio file that is dropped onto the song is listened to', async () => {
    const path = info.outputPath('harbour loop.wav');
    writeFileSync(path, writeWav(LOOP, LOOP, LOOP_RATE, 16));
    await dropFiles(page, [path]);
    await expect(page.getByText(/harbour loop: 4.00 s, 3\d hits/)).toBeVisible();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await expect(page.getByRole('button', { name: 'Import a sound file …' })).toBeVisible();
  });
});
