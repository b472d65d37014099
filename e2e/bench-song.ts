import { chromium, type Page } from '@playwright/test';
import { asPlayed } from '@early-sparrow/core/performance';
import { writeSmf } from '@early-sparrow/core/smf';
import { newPart, newSong, newTrack } from '@early-sparrow/core/song';
import { frames } from './frames';
import { boxOf, typeInto } from './hands';
import { importFile, LARGE_FILE, openSongs } from './support';

/**
 * Prints how quick the song view is with 500 tracks of ten parts each, and how long it takes to go 800 steps back in a
 * song of 27,000 notes. Run it with the server up: `npm run bench:song`. It measures; it does not judge.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const TRACKS = 500;
const PARTS = 10;
const BAR = 3840;
const STEPS = 800;

/** Tracks of quarters over twenty bars; whole bars that are inserted cut them into parts. */
function wide(): Buffer {
  let id = 0;
  const tracks = Array.from({ length: TRACKS }, (_, t) => {
    const notes = Array.from({ length: 2 * PARTS * 4 }, (_, i) => {
      return {
        id: id++,
        start: i * 960,
        length: 400,
        pitch: 48 + ((t + i) % 24),
        velocity: 80,
        channel: t % 16,
        release: 64,
      };
    });
    return newTrack(`t${t}`, `Track ${t + 1}`, { parts: [newPart(`p${t}`, 'Part', 0, 2 * PARTS * BAR, { notes })] });
  });
  const song = { ...newSong('Wide'), tracks, nextId: id };
  return Buffer.from(writeSmf(song, asPlayed(song)));
}

const lastStep = (page: Page) => page.getByRole('button', { name: 'Undo' }).getAttribute('title');

async function until(done: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 2000; i++) if (await done()) return;
  throw new Error('It did not happen.');
}

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });

const tell = (name: string, text: string) => console.log(`${name.padEnd(34)} ${text}`);
const told = ({ p95, longest }: { p95: number; longest: number }) =>
  `95 % of frames ≤ ${p95.toFixed(1)} ms, longest task ${longest.toFixed(0)} ms`;

async function scrolled(): Promise<void> {
  const page = await browser.newPage({ baseURL: url, viewport: { width: 1280, height: 800 } });
  await openSongs(page);
  await importFile(page, { name: 'Wide.mid', mimeType: 'audio/midi', buffer: wide() });
  await page.waitForURL(/song/);
  await page.locator('es-overview canvas').first().waitFor({ timeout: 120_000 });
  await page.waitForTimeout(3000);
  await page.keyboard.press('Shift+B');
  const strip = page.getByRole('region', { name: 'Tempo, meter, markers and key' });
  for (let k = 1; k < PARTS; k++) {
    await typeInto(page, strip.getByLabel('Place', { exact: true }), `${3 * k}`);
    await page.keyboard.press('Enter');
    const begin = performance.now();
    await strip.getByRole('button', { name: 'Insert', exact: true }).click();
    await until(async () => (await lastStep(page)) === 'Insert one bar');
    if (k === PARTS - 1)
      tell(`a bar in front of ${TRACKS * (PARTS - k)} parts`, `${(performance.now() - begin).toFixed(0)} ms`);
    await page.waitForTimeout(500);
  }
  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+O');
  // The tracks' chips are worked out first.
  await page.waitForTimeout(15_000);
  tell('idle page', told(await frames(page, () => page.waitForTimeout(1500))));
  const box = await boxOf(page.locator('es-overview'));
  await page.mouse.move(box.x + 500, box.y + 150);
  const first = page.getByRole('list', { name: 'Tracks of the song view' });
  const before = await first.getAttribute('style');
  const scroll = async () => {
    for (let i = 0; i < 60; i++) {
      await page.mouse.wheel(0, 37);
      await page.waitForTimeout(16);
    }
  };
  tell(`scroll, ${TRACKS} tracks, ${TRACKS * PARTS} parts`, told(await frames(page, scroll)));
  if ((await first.getAttribute('style')) === before) throw new Error('Nothing was scrolled.');
  await page.close();
}

async function travelled(): Promise<void> {
  const page = await browser.newPage({ baseURL: url, viewport: { width: 1280, height: 800 } });
  await openSongs(page);
  await importFile(page, LARGE_FILE);
  await page.waitForURL(/song/);
  await page.locator('es-timing-view canvas').first().waitFor({ timeout: 120_000 });
  await page.waitForTimeout(3000);
  const roll = await boxOf(page.locator('es-timing-view'));
  await page.mouse.click(roll.x + 200, roll.y + 40);
  for (let i = 0; i < 6; i++) await page.keyboard.press('Shift+ArrowRight');
  // Some notes are nudged, then their part gets another grid: presses that follow each other are not one step.
  for (let i = 0; i < STEPS; i++) await page.keyboard.press(i % 2 ? 'Alt+ArrowRight' : i % 4 ? '8' : '4');
  await page.keyboard.press('Shift+H');
  const strip = page.getByRole('region', { name: 'History' });
  await strip.waitFor();
  await page.waitForTimeout(1000);
  const undo = page.getByRole('button', { name: 'Undo', exact: true });
  const begin = performance.now();
  // The time holds the press and the question whether it is there; the longest task is what the page took at one go.
  const { longest } = await frames(page, async () => {
    await strip.getByRole('button', { name: 'The beginning' }).click();
    await until(() => undo.isDisabled());
  });
  const took = performance.now() - begin;
  tell(`${STEPS} steps back, 27,000 notes`, `${took.toFixed(0)} ms, longest task ${longest.toFixed(0)} ms`);
  await page.close();
}

await scrolled();
await travelled();
await browser.close();
