import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { expect, test } from '@playwright/test';
import { boxOf, choose, dragFilesOver, dropFiles } from './hands';
import { importFile, openDemo, openSongs, OPENMSX, selectTrack } from './support';

const DEMO = 'app/public/demo/night-ferry.mid';

test('songs can be renamed, duplicated, deleted and brought back, each by itself', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('link', { name: 'All songs' }).click();
  const more = (name: string) => page.getByRole('button', { name: `Options for ${name}`, exact: true });
  const remove = async (name: string) => {
    await more(name).click();
    await page.getByRole('menuitem', { name: 'Delete' }).click();
  };
  await more('Night Ferry').click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await expect(page.getByLabel('Name of the song')).toBeFocused();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('Second crossing');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('link', { name: 'Second crossing' })).toBeFocused();
  await more('Second crossing').click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(2);
  await remove('Second crossing');
  await remove('Second crossing (copy)');
  await expect(page.getByText('No songs yet.')).toBeVisible();
  // A second deletion leaves the first one's way back.
  await page.getByRole('button', { name: 'Bring back Second crossing', exact: true }).click();
  await page.getByRole('button', { name: 'Bring back Second crossing (copy)' }).click();
  await expect(page.getByRole('link', { name: /Second crossing/ })).toHaveCount(2);
  await expect(page.getByRole('img', { name: 'Tracks: 1 early, 2 late, 2 on the lines' })).toHaveCount(2);
  await page.getByRole('link', { name: 'Second crossing', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Second crossing' })).toBeVisible();
});

test('many songs are searched and put in order', async ({ page }, info) => {
  await openSongs(page);
  const names = ['Anchor', 'Buoy', 'Crane', 'Dock', 'Engine room', 'Fog', 'Gangway'];
  const folder = info.outputPath('takes');
  mkdirSync(folder, { recursive: true });
  for (const name of names) copyFileSync(DEMO, join(folder, `${name}.mid`));
  await dropFiles(page, [folder]);
  await expect(page.getByText('7 of 7 were opened.')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('link', { name: 'All songs' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(7);
  await choose(page, 'Order', 'by name');
  await expect(page.getByRole('listitem').first()).toContainText('Anchor');
  await page.getByRole('searchbox', { name: 'Find a song' }).click();
  await page.keyboard.type('room');
  await expect(page.getByRole('listitem')).toHaveCount(1);
  await expect(page.getByRole('listitem')).toContainText('Engine room');
});

test('a drag of files that is called off leaves nothing over the page; a file can be dropped anywhere', async ({
  page,
}, info) => {
  await openSongs(page);
  await test.step('a drag of files that is called off leaves nothing over the page', async () => {
    await dragFilesOver(page, ['app/public/demo/night-ferry.mid']);
    // The page gets no event that says so.
    await expect(page.getByText(/^Drop MIDI files/)).toHaveCount(0);
    await expect(page.getByText('No songs yet.')).toBeVisible();
  });

  await test.step('a file can be dropped anywhere', async () => {
    const path = info.outputPath('Dropped take.mid');
    copyFileSync(DEMO, path);
    await dropFiles(page, [path]);
    await expect(page.getByRole('heading', { name: 'Dropped take' })).toBeVisible();
  });
});

test('a file that is dropped on an open desk takes its place whole', async ({ page }) => {
  await openDemo(page);
  await selectTrack(page, /Clarinet/);
  await page.keyboard.press('v');
  await page.keyboard.press('Shift+M');
  await page.keyboard.press('b');
  await page.keyboard.press('l');
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect(page.getByLabel('Bar, beat, sixteenth')).not.toHaveText('1.1.1');
  await dropFiles(page, [join(OPENMSX, 'tttheme2.mid')]);
  await expect(page.getByRole('heading', { name: 'tttheme2' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await expect(page.getByLabel('Bar, beat, sixteenth')).toHaveText('1.1.1');
  await expect(page.getByRole('group', { name: /Blind compare/ })).toHaveCount(0);
  await expect(page.getByRole('heading', { name: /Timing report/ })).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Loop', exact: true })).toHaveAttribute('aria-pressed', 'false');
});

test('what was chosen and shown for one song is not for the next, though its tracks and parts are alike', async ({
  page,
}) => {
  await openDemo(page);
  const behind = page.getByRole('button', { name: /^Show Upright bass behind/ });
  await behind.click();
  await page.keyboard.press('Shift+o');
  const overview = page.locator('es-overview');
  await expect.poll(async () => (await boxOf(overview)).height).toBeGreaterThan(150);
  const { x, y } = await boxOf(overview);
  // The first two tracks' parts.
  await page.mouse.click(x + 300, y + 40);
  await page.keyboard.down('Shift');
  await page.mouse.click(x + 300, y + 100);
  await page.keyboard.up('Shift');
  const panel = page.locator('es-treatment-panel');
  await expect(panel).toContainText('and 1 more');
  await expect(behind).toHaveAttribute('aria-pressed', 'true');
  await dropFiles(page, [resolve(DEMO)]);
  await expect(page.getByRole('heading', { name: 'night-ferry' })).toBeVisible();
  await expect(panel).toContainText('whole part, 435 notes');
  await expect(behind).toHaveAttribute('aria-pressed', 'false');
});

test('files that are no music are refused with a sentence that helps, a cut-off one is opened as far as it goes', async ({
  page,
}, info) => {
  await openDemo(page);
  await page.getByRole('link', { name: 'All songs' }).click();
  for (const [what, bytes, sentence] of [
    ['text', Buffer.from('Dear crew, the ferry leaves at nine.'), /Choose a file that ends in \.mid/],
    ['nothing', Buffer.alloc(0), /The file is empty/],
    ['a header alone', readFileSync(DEMO).subarray(0, 14), /no tracks/],
  ] as const) {
    await test.step(`a file of ${what} is refused, and nothing is lost`, async () => {
      await importFile(page, { name: 'ferry.mid', mimeType: 'audio/midi', buffer: bytes });
      await expect(page.getByText(sentence)).toBeVisible();
      await expect(page.getByRole('listitem')).toHaveCount(1);
    });
  }

  await test.step('a file that breaks off is opened as far as it goes, and says where', async () => {
    const half = readFileSync(DEMO).subarray(0, 3000);
    await importFile(page, { name: 'half.mid', mimeType: 'audio/midi', buffer: half });
    await expect(page.getByRole('heading', { name: 'half' })).toBeVisible();
    await expect(page.getByText(/was opened.*byte 3000/)).toBeVisible();
    await page.getByRole('link', { name: 'All songs' }).click();
  });

  await test.step('several files and a folder without music are told of in one message', async () => {
    const good = info.outputPath('good.mid');
    copyFileSync(DEMO, good);
    const bad = info.outputPath('bad.mid');
    writeFileSync(bad, 'Dear crew');
    const empty = info.outputPath('photos');
    mkdirSync(empty, { recursive: true });
    await dropFiles(page, [bad, empty, good]);
    const message = page.locator('mat-snack-bar-container');
    await expect(message).toContainText('1 of 3 were opened.');
    await expect(message).toContainText('“bad.mid” was not opened.');
    await expect(message).toContainText('“photos” is a folder without MIDI or song files.');
    await expect(page.getByRole('heading', { name: 'good' })).toBeVisible();
  });
});

test('a song that is not kept here says so', async ({ page }) => {
  await openDemo(page);
  await page.goto('/song/unknown');
  await expect(page.getByRole('alert')).toContainText('not in this browser');
  await page.getByRole('link', { name: 'Go to the songs' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(1);
});
