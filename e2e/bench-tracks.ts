import { chromium } from '@playwright/test';
import { frames } from './frames';
import { manyTracks } from './many-tracks';
import { importFile, openSongs } from './support';

/**
 * Prints how quickly songs of 5, 80 and 500 tracks open and begin to play. Run it with the server up:
 * `npm run bench:tracks`. It measures; it does not judge.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
/** A sixteenth of the song, in ms: the shown place moves that long after the sound began. */
const SIXTEENTH = 134;

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
for (const times of [1, 16, 100]) {
  const page = await browser.newPage({ baseURL: url, viewport: { width: 1280, height: 800 } });
  await openSongs(page);
  const file = { name: 'many.mid', mimeType: 'audio/midi', buffer: manyTracks(times) };
  let opened = 0;
  const opening = await frames(page, async () => {
    const begin = performance.now();
    await importFile(page, file);
    await page.locator('es-timing-view canvas').first().waitFor({ timeout: 120_000 });
    opened = performance.now() - begin;
    await page.waitForTimeout(3000);
  });
  const place = page.getByLabel('Bar, beat, sixteenth');
  const starts: number[] = [];
  let longest = 0;
  for (let k = 0; k < 3; k++) {
    const standing = await place.innerText();
    const playing = await frames(page, async () => {
      const pressed = performance.now();
      await page.keyboard.press('Space');
      await page.waitForFunction(
        (was) => document.querySelector('es-transport .place')?.textContent !== was,
        standing,
        {
          polling: 'raf',
        },
      );
      starts.push(performance.now() - pressed - SIXTEENTH);
      await page.waitForTimeout(1000);
    });
    longest = Math.max(longest, playing.longest);
    await page.keyboard.press('Space');
    await page.waitForTimeout(500);
  }
  const told = starts.map((ms) => ms.toFixed(0)).join(', ');
  console.log(
    `${String(5 * times).padStart(3)} tracks: file to painted roll ${opened.toFixed(0)} ms (longest task ${opening.longest.toFixed(0)} ms), press to sound, three times ${told} ms (longest task ${longest.toFixed(0)} ms)`,
  );
  await page.close();
}
await browser.close();
