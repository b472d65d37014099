import { expect, test, type Page } from '@playwright/test';
import { openDemo, withoutFileWindows } from './support';

const DEMO = '**/demo/night-ferry.mid';

test('a first visit begins with the demo song; Back shows the songs, a reload the demo', async ({ page }) => {
  await openDemo(page);
  await page.goBack();
  await expect(page.getByRole('heading', { name: 'Songs' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Night Ferry' })).toHaveCount(1);
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Songs' })).toBeVisible();
  await page.goForward();
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
});

test('a first visit shows the songs where the demo cannot be fetched, and says so', async ({ page }) => {
  await page.route(DEMO, (route) => route.abort());
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Songs' })).toBeVisible();
  await expect(page.getByText('The demo song could not be loaded.')).toBeVisible();
  await page.unroute(DEMO);
  await page.getByRole('button', { name: 'Open the demo song' }).click();
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
});

/** A first visit whose demo comes when it is told to. */
async function waiting(page: Page): Promise<() => void> {
  let comes = () => undefined as void;
  const waits = new Promise<void>((done) => (comes = done));
  await page.route(DEMO, async (route) => {
    await waits;
    await route.continue();
  });
  await withoutFileWindows(page);
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Songs' })).toBeVisible();
  return comes;
}

test('a first visit shows the songs while the demo takes long, and the demo once it has come', async ({ page }) => {
  const comes = await waiting(page);
  comes();
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
});

test('a demo that comes late takes nobody away from what they do', async ({ page }) => {
  const comes = await waiting(page);
  await page.getByRole('button', { name: 'New song' }).click();
  const name = page.getByRole('textbox', { name: 'Name' });
  await name.press('Control+a');
  await name.pressSequentially('Mine');
  comes();
  await expect(page.getByRole('link', { name: 'Night Ferry' })).toHaveCount(1);
  await name.press('Enter');
  await expect(page.getByRole('heading', { name: 'Mine' })).toBeVisible();
});

test('the demo is pressed for while it is on its way: it opens, and is there once', async ({ page }) => {
  const comes = await waiting(page);
  await page.getByRole('button', { name: 'Open the demo song' }).click();
  comes();
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
  await page.goBack();
  await expect(page.getByRole('link', { name: 'Night Ferry' })).toHaveCount(1);
});
