import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { importFile, openDemo, openSongs } from './support';

const DEMO = 'app/public/demo/night-ferry.mid';

test('songs can be renamed, duplicated, deleted and brought back', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('link', { name: 'All songs' }).click();
  const more = (name: string) => page.getByRole('button', { name: `More about ${name}`, exact: true });
  await more('Night Ferry').click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name of the song').fill('Second crossing');
  await page.keyboard.press('Enter');
  await more('Second crossing').click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(2);
  await more('Second crossing').click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(2);
  await page.getByRole('link', { name: 'Second crossing', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Second crossing' })).toBeVisible();
});

test('a file can be dropped anywhere', async ({ page }) => {
  await openSongs(page);
  const bytes = [...readFileSync(DEMO)];
  await page.evaluate((data) => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([new Uint8Array(data)], 'Dropped take.mid', { type: 'audio/midi' }));
    for (const type of ['dragenter', 'dragover', 'drop']) {
      document.body.dispatchEvent(new DragEvent(type, { dataTransfer: transfer, bubbles: true, cancelable: true }));
    }
  }, bytes);
  await expect(page.getByRole('heading', { name: 'Dropped take' })).toBeVisible();
});

for (const [what, bytes, sentence] of [
  ['text', Buffer.from('Dear crew, the ferry leaves at nine.'), /Choose a file that ends in \.mid/],
  ['nothing', Buffer.alloc(0), /The file is empty/],
  ['a header alone', readFileSync(DEMO).subarray(0, 14), /no tracks/],
] as const) {
  test(`a file of ${what} is refused with a sentence that helps, and nothing is lost`, async ({ page }) => {
    await openDemo(page);
    await page.getByRole('link', { name: 'All songs' }).click();
    await importFile(page, { name: 'ferry.mid', mimeType: 'audio/midi', buffer: bytes });
    await expect(page.getByText(sentence)).toBeVisible();
    await expect(page.getByRole('listitem')).toHaveCount(1);
  });
}

test('a file that breaks off is opened as far as it goes, and says where', async ({ page }) => {
  await openSongs(page);
  const half = readFileSync(DEMO).subarray(0, 3000);
  await importFile(page, { name: 'half.mid', mimeType: 'audio/midi', buffer: half });
  await expect(page.getByRole('heading', { name: 'half' })).toBeVisible();
  await expect(page.getByText(/was opened.*byte 3000/)).toBeVisible();
});

test('a song that is not kept here says so', async ({ page }) => {
  await openDemo(page);
  await page.goto('/song/unknown');
  await expect(page.getByRole('alert')).toContainText('not kept in this browser');
  await page.getByRole('link', { name: 'Go to the songs' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(1);
});
