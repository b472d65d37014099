import { execFileSync } from 'node:child_process';
import { chromium, type Page } from '@playwright/test';
import { placeOn } from './hands';
import { watchSound, type Struck } from './heard';
import { importFile, LARGE_FILE, listened, openSongs } from './support';

/**
 * Prints how exact playing is while the page is kept busy: ten thousand notes of a song of 27,000 with the strength
 * slider moving all the time, as the audio thread itself reports them, and what five hundred plays leave behind.
 * Run it with the server up: `npm run bench:live`. It takes some minutes. It measures; it does not judge.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const NOTES = Number(process.env['NOTES'] ?? 10_000);
const PLAYS = Number(process.env['PLAYS'] ?? 500);

async function heardSoFar(page: Page): Promise<Struck[]> {
  return page.evaluate(() => (window as unknown as { heard: Struck[] }).heard);
}

/** Memory of all of the browser's processes, in MB. */
function memory(): number {
  const lines = execFileSync('ps', ['-C', 'chromium', '-o', 'rss=']).toString().trim().split('\n');
  return lines.reduce((sum, line) => sum + Number(line), 0) / 1024;
}

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--autoplay-policy=no-user-gesture-required'],
});
const page = await browser.newPage({ baseURL: url, viewport: { width: 1280, height: 800 } });
const client = await page.context().newCDPSession(page);
await watchSound(page);
await openSongs(page);
await importFile(page, LARGE_FILE);
await listened(page);
await page.getByRole('switch', { name: 'Put starts on lines' }).click();
await page.keyboard.press('Space');
const [from, to] = [await placeOn(page, 'Strength', 100), await placeOn(page, 'Strength', 20)];
const value = () => page.getByRole('slider', { name: 'Strength', exact: true }).inputValue();
await page.mouse.move(...from);
await page.mouse.down();
const values = new Set<string>();
let moves = 0;
let known = 0;
while (known < NOTES) {
  const share = Math.abs(Math.sin(moves / 12));
  await page.mouse.move(from[0] + (to[0] - from[0]) * share, from[1]);
  if (++moves % 40 !== 0) continue;
  values.add(await value());
  const now = (await heardSoFar(page)).length;
  // A song that has ended is played from its beginning again.
  if (now === known) await page.keyboard.press('Space');
  known = now;
}
await page.mouse.up();
// A slider that stands still disturbs nobody: what was driven must have changed.
if (values.size < 5) throw new Error('The strength slider did not follow the pointer.');
const heard = await heardSoFar(page);
const count = (when: Struck['when']) => heard.filter((s) => s.when === when).length;
const told = await page.locator('es-transport .trouble').allInnerTexts();
await page.keyboard.press('Space');
console.log(
  `${heard.length} notes struck, ${count('late')} late, ${count('moved')} moved over the playhead by the slider and struck at once, over ${moves} moves of the slider; the desk says: ${told.join(' ') || 'nothing'}`,
);

const used = async () => {
  await client.send('HeapProfiler.collectGarbage');
  const { usedSize } = await client.send('Runtime.getHeapUsage');
  return `${(usedSize / 1e6).toFixed(1)} MB of heap, ${memory().toFixed(0)} MB in all processes`;
};
await page.evaluate(() => ((window as unknown as { heard: Struck[] }).heard.length = 0));
for (let i = 0; i < 2 * PLAYS; i++) {
  await page.keyboard.press('Space');
  await page.waitForTimeout(60);
  if (i === 19) console.log(`after 10 plays: ${await used()}`);
}
const again = (await heardSoFar(page)).length;
if (again < PLAYS) throw new Error(`Only ${again} notes were heard in ${PLAYS} plays.`);
await page.evaluate(() => ((window as unknown as { heard: Struck[] }).heard.length = 0));
await page.waitForTimeout(1000);
console.log(`after ${PLAYS} plays: ${await used()}`);
await browser.close();
