import { expect, test } from '@playwright/test';
import { writeWav } from '@early-sparrow/core/sound';
import { drumLoop, LOOP_RATE } from '../core/test/drum-loop';
import { choose } from './hands';
import { byStart, exported, midiFile, importFile, listened, openSongs, plainNote, selectTrack } from './support';

/** Thirty-two straight sixteenths of a closed hi-hat, from bar 1 on. */
const HATS = Array.from({ length: 32 }, (_, i) => ({ ...plainNote(i, i * 240, 42), channel: 9, length: 60 }));

test('a drum loop of 62.5 % swing is brought in, measured, and its swing given to a straight part', async ({
  page,
}) => {
  const { samples } = drumLoop(0.625);
  const loop = Buffer.from(writeWav(samples, samples, LOOP_RATE, 16));
  await openSongs(page);
  await importFile(page, midiFile('Straight hats', HATS));
  await listened(page);
  await page.keyboard.press('m');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Bring in the hits of …' }).click();
  await (await chooser).setFiles({ name: 'harbour loop.wav', mimeType: 'audio/wav', buffer: loop });
  await expect(page.getByText(/harbour loop: 4.00 s, 3\d hits, as\s+2\s+bars/)).toBeVisible();
  await page.getByRole('button', { name: 'Add its hits as a track' }).click();
  await page.keyboard.press('m');
  // What fits its hits says how it swings.
  await expect(page.getByRole('button', { name: /Take 1\/16 ~6[23](\.\d)?%/ }).first()).toBeVisible({
    timeout: 60_000,
  });
  const heard = await page
    .getByRole('button', { name: /Take 1\/16 ~/ })
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

test('a file that is no sound is refused with a sentence', async ({ page }) => {
  await openSongs(page);
  await importFile(page, midiFile('Straight hats', HATS));
  await listened(page);
  await page.keyboard.press('m');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Bring in the hits of …' }).click();
  await (
    await chooser
  ).setFiles({ name: 'letter.wav', mimeType: 'audio/wav', buffer: Buffer.from('Dear harbour master') });
  await expect(page.getByText(/letter.wav is no sound file that this browser knows/)).toBeVisible();
});
