import { copyFileSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { writeWav } from '@early-sparrow/core/sound';
import { drumLoop, LOOP_RATE } from '../core/test/drum-loop';
import { boxOf, choose, drag, dropFiles, pressTwice, typeAmount, typeInto } from './hands';
import { openLanes, runCommand } from './shaping';
import { openDemo, roll, selectTrack } from './support';

// Takes the pictures of docs/screenshots from the demo song: `npm run screenshots` with the server up; with names after
// `--` only those.
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const folder = 'docs/screenshots';
const only = process.argv.slice(2).filter((name) => /^[a-z-]+$/.test(name));

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });

async function scene(
  name: string,
  act: (page: Page) => Promise<void>,
  size = { width: 1280, height: 800 },
): Promise<void> {
  if (only.length > 0 && !only.includes(name)) return;
  const context = await browser.newContext({ baseURL: url, viewport: size, reducedMotion: 'reduce' });
  const page = await context.newPage();
  await openDemo(page);
  await act(page);
  // What is rested on or on its way stays shown; else the pointer is out of the way.
  if (!['recipes', 'shape', 'song'].includes(name)) await page.mouse.move(size.width / 2, size.height - 5);
  await page.waitForTimeout(400);
  await page.screenshot({ path: `${folder}/${name}.png` });
  await context.close();
}

const listened = (page: Page) => page.getByText('typical miss', { exact: true }).waitFor();
const takeBest = (page: Page) => page.locator('es-fits-panel li button').first().click();

await scene('desk', async (page) => {
  await listened(page);
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await typeAmount(page, 'Tolerance', '4 ms');
  await typeAmount(page, 'Strength', '80 %');
});
await scene('fits', listened);
await scene('desk-dusk', async (page) => {
  await page.getByRole('button', { name: 'Dusk' }).click();
  await selectTrack(page, /Brush kit/);
  await listened(page);
  await takeBest(page);
});
await scene('put-right', async (page) => {
  await page.keyboard.press('Shift+j');
  await page.getByText(/tracks: .* sure/).waitFor();
});
await scene('exceptions', async (page) => {
  await selectTrack(page, /Clarinet/);
  await listened(page);
  await takeBest(page);
  await page.keyboard.press('Shift+W');
  await page.keyboard.press('Shift+A');
  await page.keyboard.press('e');
  await page.keyboard.press('o');
});
await scene('rules', async (page) => {
  await selectTrack(page, /Brush kit/);
  await listened(page);
  await page.keyboard.press('Shift+u');
  await choose(page, 'Rule', 'Hats back');
  await page.getByRole('button', { name: 'Add a condition' }).click();
  await choose(page, 'Condition 2', 'with a velocity');
  await typeInto(page, page.getByLabel('Condition 2, highest'), '60');
  await page
    .getByRole('status')
    .filter({ hasText: /^\d+ of 581 notes/ })
    .click();
});
await scene('tempo', async (page) => {
  await listened(page);
  await page.keyboard.press('Shift+B');
  const strip = page.getByRole('region', { name: 'Tempo, meter, markers and key' });
  const add = async (place: string, field: string, text: string, press: string) => {
    await typeInto(page, strip.getByLabel('Place', { exact: true }), place);
    await page.keyboard.press('Enter');
    await typeInto(page, strip.getByLabel(field), text);
    await strip.getByRole('button', { name: press, exact: true }).click();
  };
  await add('1.3', 'Name of a marker', 'Gangway', 'Add a marker');
  await add('2.3', 'Last tempo of the ramp', '132', 'Ramp');
  await choose(page, 'Key', 'D minor');
  await strip.getByRole('button', { name: 'Set the key' }).click();
  await add('3', 'Name of a marker', 'At sea', 'Add a marker');
});
await scene('sound', async (page) => {
  await listened(page);
  await page.keyboard.press('m');
  await page.getByText(/Sounds: /).waitFor();
});
await scene('play-in', async (page) => {
  await listened(page);
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.keyboard.press('i');
  await choose(page, 'Input device', 'Practice player');
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  await page.waitForTimeout(7000);
});
await scene('takes', async (page) => {
  await page.getByRole('button', { name: 'Dusk' }).click();
  await listened(page);
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.keyboard.press('i');
  await choose(page, 'Input device', 'Practice player');
  const r = await roll(page);
  await drag(page, [r.at(0), r.loopY], [r.at(2 * 3840), r.loopY]);
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  await page.waitForTimeout(14_500);
  await page.keyboard.press('Space');
  await page.keyboard.press('i');
  await page.getByRole('button', { name: 'Compare bar by bar' }).click();
  await page.getByRole('button', { name: 'Put the best together' }).click();
  await page.getByRole('button', { name: 'The best are put together' }).waitFor();
});
await scene('reference', async (page) => {
  await listened(page);
  await page.keyboard.press('m');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Import a sound file …' }).click();
  const { samples } = drumLoop(0.62);
  const buffer = Buffer.from(writeWav(samples, samples, LOOP_RATE, 16));
  await (await chooser).setFiles({ name: 'harbour loop.wav', mimeType: 'audio/wav', buffer });
  await page.getByRole('button', { name: 'Add as a track' }).click();
  await page.keyboard.press('m');
  await page.getByRole('button', { name: 'Repeat' }).click();
  await selectTrack(page, /Brush kit/);
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await typeAmount(page, 'Swing', '62 %');
});
await scene('files', async (page) => {
  await page.goto('/files');
  await page.getByText('Drop MIDI files or folders here.').waitFor();
  const folder = mkdtempSync(join(tmpdir(), 'takes-'));
  for (const name of [
    'Act 1, ferry.mid',
    'Act 1, quay.mid',
    'Act 2, fog.mid',
    'Act 2, storm.mid',
    'Act 3, harbour.mid',
  ])
    copyFileSync('app/public/demo/night-ferry.mid', join(folder, name));
  writeFileSync(join(folder, 'Act 3, cut off.mid'), readFileSync('app/public/demo/night-ferry.mid').subarray(0, 12));
  await dropFiles(page, [folder]);
  await page.getByText(/^6 files, /).waitFor({ timeout: 120_000 });
});
await scene('report', async (page) => {
  await selectTrack(page, /Brush kit/);
  await listened(page);
  await takeBest(page);
  await page.keyboard.press('Shift+M');
  await page.locator('es-timing-report canvas').nth(3).waitFor();
});
await scene('song', async (page) => {
  await page.keyboard.press('Shift+o');
  await page.waitForTimeout(400);
  const [box, r] = [await boxOf(page.locator('es-overview')), await roll(page)];
  /** Cuts a track's part where the ruler of the whole song is pressed. */
  const cut = async (row: number, x: number) => {
    await page.mouse.click(box.x + x, box.y + 8);
    await page.mouse.click(r.x + 64 + (r.width - 64) / 2, r.barsY);
    await page.mouse.click(box.x + x - 60, box.y + 18 + (row + 0.5) * ((box.height - 22) / 5));
    await runCommand(page, 'cut the chosen parts');
  };
  for (const x of [300, 620]) await cut(0, x);
  await cut(1, 620);
  await page.keyboard.press('Shift+h');
  await page.getByLabel('Name of the mark').click();
  await page.keyboard.type('before the chorus');
  await page.keyboard.press('Enter');
  const middle = (row: number) => box.y + 18 + (row + 0.5) * ((box.height - 22) / 5);
  for (const [row, colour] of [
    [0, 'Lake'],
    [1, 'Straw'],
    [4, 'Heather'],
  ] as const) {
    await page.mouse.click(box.x + 760, middle(row));
    await page.keyboard.press('Shift+P');
    await page.getByRole('button', { name: 'Colour of the parts' }).click();
    await page.getByRole('menuitem', { name: colour }).click();
    await page.keyboard.press('Shift+H');
  }
  await page.mouse.click(box.x + 760, middle(0));
  await page.keyboard.down('Shift');
  await page.mouse.click(box.x + 760, middle(1));
  await page.keyboard.up('Shift');
  await page.mouse.move(box.x + 760, middle(0));
  await page.mouse.down();
  await page.mouse.move(box.x + 830, middle(0), { steps: 6 });
});
await scene('desk-small', (page) => selectTrack(page, /Electric piano/), { width: 1024, height: 700 });
await scene('recipes', async (page) => {
  await selectTrack(page, /Upright bass/);
  await listened(page);
  await page.getByRole('button', { name: 'Recipes' }).click();
  await page.getByRole('button', { name: /^Joined bass/ }).hover();
});
await scene('shape', async (page) => {
  await selectTrack(page, /Electric piano/);
  await listened(page);
  await openLanes(page, ['Velocity', 'Pedal']);
  const r = await roll(page);
  // On its way: a run that is drawn over the chords.
  await page.keyboard.down('Shift');
  await pressTwice(page, [r.at(960) + 5, r.y + 150]);
  await page.mouse.move(r.at(2640) + 5, r.y + 75, { steps: 12 });
});
await scene('phone', (page) => selectTrack(page, /Upright bass/), { width: 390, height: 844 });
await scene('songs', (page) => page.getByRole('link', { name: 'All songs' }).click());
await browser.close();
