import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { dropFiles } from './hands';
import { exportMidi, importFile, openDemo, openSongs } from './support';
import { lastStep } from './shaping';

const DEMO = 'app/public/demo/night-ferry.mid';
/** More than are read or written at once. */
const SONGS = 12;

async function backUp(page: Page): Promise<Buffer> {
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Back up everything' }).click();
  return readFileSync(await (await download).path());
}

async function bringBack(page: Page, name: string, bytes: Buffer): Promise<void> {
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Bring back a backup' }).click();
  await (await chooser).setFiles({ name, mimeType: 'application/zip', buffer: bytes });
}

const storage = (page: Page) => page.getByRole('region', { name: 'Storage' }).innerText();
const said = (page: Page, text: string | RegExp) =>
  expect(page.getByRole('region', { name: 'Storage' })).toContainText(text, { timeout: 120_000 });

test('a dozen songs are backed up and come back in another browser; a second time they are there already', async ({
  page,
  browser,
}, info) => {
  await openSongs(page);
  const folder = info.outputPath('takes');
  mkdirSync(folder, { recursive: true });
  for (let i = 1; i <= SONGS; i++) copyFileSync(DEMO, join(folder, `Take ${i}.mid`));
  await dropFiles(page, [folder]);
  await expect(page.getByText(`${SONGS} of ${SONGS} were opened.`)).toBeVisible({ timeout: 120_000 });
  // One of them is treated and named, one recipe is saved.
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await expect.poll(() => lastStep(page)).toBeTruthy();
  const title = await page.getByRole('heading', { level: 1 }).textContent();
  const midi = await exportMidi(page, 'corrected');
  await page.getByRole('button', { name: 'Recipes' }).click();
  await page.getByRole('textbox', { name: 'Name of the recipe' }).click();
  await page.keyboard.type('Ferry feel');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Rename Ferry feel' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'All songs' }).click();
  const bytes = await backUp(page);
  await said(page, `${SONGS} songs with all that belongs to them are in`);

  const context = await browser.newContext();
  const other = await context.newPage();
  await openSongs(other);
  await bringBack(other, 'backup.zip', bytes);
  await said(other, `${SONGS} songs came back. One recipe came back.`);
  await expect(other.getByRole('listitem')).toHaveCount(SONGS);
  await other.getByRole('link', { name: title!, exact: true }).click();
  await expect(other.getByRole('heading', { name: title!, exact: true })).toBeVisible();
  expect(await exportMidi(other, 'corrected')).toEqual(midi);
  // Changed since: the backup's stands beside it, and nothing else comes twice.
  await other.getByRole('switch', { name: 'Put starts on lines' }).click();
  await expect.poll(() => lastStep(other)).toBeTruthy();
  await expect(other.getByText('saved', { exact: true })).toBeVisible();
  await other.getByRole('link', { name: 'All songs' }).click();
  await bringBack(other, 'backup.zip', bytes);
  await said(other, `No song was missing. ${SONGS - 1} songs were there already. One song had changed since`);
  await expect(other.getByRole('listitem')).toHaveCount(SONGS + 1);
  await bringBack(other, 'backup.zip', bytes);
  await said(other, `${SONGS} songs were there already.`);
  await expect(other.getByRole('listitem')).toHaveCount(SONGS + 1);
  await context.close();
});

async function remove(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: `Options for ${name}`, exact: true }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(page.getByRole('button', { name: `Bring back ${name}`, exact: true })).toBeVisible();
}

test('a backup whose tab is closed in the middle is finished the next time; other files are refused in a sentence', async ({
  page,
  context,
  browser,
}, info) => {
  await openDemo(page);
  await page.getByRole('link', { name: 'All songs' }).click();
  const folder = info.outputPath('takes');
  mkdirSync(folder, { recursive: true });
  for (let i = 1; i <= 12; i++) copyFileSync(DEMO, join(folder, `Take ${i}.mid`));
  await dropFiles(page, [folder]);
  await expect(page.getByText('12 of 12 were opened.')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('link', { name: 'All songs' }).click();
  const bytes = await backUp(page);
  await said(page, '13 songs with all');
  for (const name of ['Night Ferry', ...Array.from({ length: 12 }, (_, i) => `Take ${i + 1}`)])
    await remove(page, name);
  await bringBack(page, 'backup.zip', bytes);
  await expect(page.getByText(/Bringing back … [3-9] of 13/)).toBeVisible();
  await page.close();
  const after = await context.newPage();
  await openSongs(after);
  await expect(after.getByRole('listitem').nth(2)).toBeVisible();
  await bringBack(after, 'backup.zip', bytes);
  await said(after, /were there already/);
  await expect(after.getByRole('listitem')).toHaveCount(13);
  // Half of one brings what is in it, and says what is missing.
  const fresh = await browser.newContext();
  const other = await fresh.newPage();
  await openSongs(other);
  await bringBack(other, 'half.zip', bytes.subarray(0, bytes.length / 2));
  await said(other, /[5-7] songs came back\. The backup breaks off: [6-8] songs are missing from it/);
  await expect(other.getByRole('listitem')).toHaveCount(
    Number(/(\d+) songs came back/.exec(await storage(other))?.[1]),
  );
  await fresh.close();
  // What is no backup.
  await bringBack(after, 'letter.zip', Buffer.from('Dear Jo'));
  await said(after, 'It is no backup of Early Sparrow, or it is damaged.');
  const empty = info.outputPath('empty.zip');
  writeFileSync(empty, Buffer.from('504b0506000000000000000000000000000000000000', 'hex'));
  await bringBack(after, 'empty.zip', readFileSync(empty));
  await said(after, 'It is no backup of Early Sparrow, or it is damaged.');
  await expect(after.getByRole('listitem')).toHaveCount(13);
});

test('the room is told, and the browser is asked to keep what is there', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('link', { name: 'All songs' }).click();
  await said(page, /Kept in this browser: songs \d.*room for \d/);
  await page.getByRole('button', { name: 'Ask it to keep them' }).click();
  // Headless browsers do not agree: that is said, with what else can be done.
  await said(page, 'It did not agree. Back up what matters');
  await importFile(page, DEMO);
  await expect(page.getByRole('heading', { name: 'night-ferry' })).toBeVisible();
});
