import { expect, test, type Page } from '@playwright/test';
import { exportByKey, openDemo, openSongs, readMidi, reload, withoutFileWindows } from './support';
import { typeInto } from './hands';

/** Opens the strength of the current part, so that it can be set. */
async function strength(page: Page): Promise<void> {
  await page
    .getByRole('button', { name: /^\d+ %$/ })
    .first()
    .click();
  await expect(page.getByLabel('Strength, typed')).toBeVisible();
}
/** Types a strength over the one that stands there. */
async function setStrength(page: Page, percent: number): Promise<void> {
  await typeInto(page, page.getByLabel('Strength, typed'), String(percent));
  await page.keyboard.press('Enter');
}
const sentence = (page: Page, percent: number) =>
  page.getByRole('button', { name: `${percent} %`, exact: true }).first();
const saved = (page: Page) => expect(page.getByText('saved', { exact: true })).toBeVisible();

test('a song open in two tabs is written by one, followed by the other, and handed over', async ({ page, context }) => {
  await openDemo(page);
  const other = await context.newPage();
  await withoutFileWindows(other);
  await other.goto(page.url());
  await expect(other.getByText('This song is being edited in another tab')).toBeVisible();

  await strength(page);
  await setStrength(page, 37);
  await saved(page);
  await expect(sentence(other, 37)).toBeVisible();

  // What cannot be done there is said, and nothing of it happens.
  await strength(other);
  await setStrength(other, 61);
  await expect(other.getByText('Choose “Edit here”')).toBeVisible();
  await expect(sentence(other, 37)).toBeVisible();

  await other.getByRole('button', { name: 'Edit here' }).click();
  await expect(other.getByText('This song is being edited in another tab')).toHaveCount(0);
  await expect(page.getByText('This song is being edited in another tab')).toBeVisible();
  await setStrength(other, 62);
  await saved(other);
  await expect(sentence(page, 62)).toBeVisible();

  // Undo there takes back what was done here, in its order.
  await other.getByRole('button', { name: 'Undo' }).click();
  await expect(sentence(other, 37)).toBeVisible();
  await expect(sentence(page, 37)).toBeVisible();
  await reload(other);
  await expect(sentence(other, 37)).toBeVisible();
});

test('a song deleted in another tab is told to be, and is kept again with one press', async ({ page, context }) => {
  await openDemo(page);
  const list = await context.newPage();
  await openSongs(list);
  await list
    .getByRole('button', { name: /^Options for/ })
    .first()
    .click();
  await list.getByRole('menuitem', { name: /Delete/ }).click();
  await strength(page);
  await setStrength(page, 41);
  await expect(page.getByText('This tab has the only copy.')).toBeVisible();
  await expect(page.getByText('saved', { exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: 'Save it again' }).click();
  await reload(page);
  await expect(sentence(page, 41)).toBeVisible();
});

test('while the browser cannot write, that is told, and nothing is lost', async ({ page }) => {
  await page.addInitScript(() => {
    const write = IDBObjectStore.prototype.add;
    IDBObjectStore.prototype.add = function (...args: Parameters<IDBObjectStore['add']>) {
      if (this.name === 'entries' && sessionStorage.getItem('full'))
        throw new DOMException('full', 'QuotaExceededError');
      return write.apply(this, args);
    };
  });
  await openDemo(page);
  await strength(page);
  await page.addInitScript(() => sessionStorage.removeItem('full'));
  await page
    .context()
    .newCDPSession(page)
    .then((cdp) => cdp.send('Runtime.evaluate', { expression: "sessionStorage.setItem('full', 'yes')" }));
  await setStrength(page, 43);
  await expect(page.getByText('The browser cannot save your changes')).toBeVisible();
  await expect(page.getByText('saved', { exact: true })).toHaveCount(0);
  // It is not left without a word.
  let asked = '';
  page.once('dialog', (dialog) => {
    asked = dialog.message();
    void dialog.dismiss();
  });
  await page.getByRole('link', { name: 'All songs' }).click();
  await expect.poll(() => asked).toContain('not saved and would be lost');
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
  // Work goes on, and can be taken out.
  await setStrength(page, 52);
  await expect(page.getByText('2 steps wait in this tab')).toBeVisible();
  expect(readMidi(await exportByKey(page)).notes.length).toBeGreaterThan(1000);
  await page
    .context()
    .newCDPSession(page)
    .then((cdp) => cdp.send('Runtime.evaluate', { expression: "sessionStorage.removeItem('full')" }));
  await expect(page.getByText('The browser cannot save your changes')).toHaveCount(0);
  await reload(page);
  await expect(sentence(page, 52)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(sentence(page, 43)).toBeVisible();
});
