import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { typeInto, typeAmount } from './hands';
import { exportMidi, listened, openDemo, reload } from './support';

const file = async (page: Page) => (await exportMidi(page, 'corrected')).toString('base64');
const undo = (page: Page) => page.getByRole('button', { name: 'Undo' });

/** Rests on a suggestion, as a hand does: it comes from outside and moves on it. */
async function rest(page: Page, on: ReturnType<Page['locator']>): Promise<void> {
  await page.mouse.move(700, 300);
  await on.hover();
  const box = await on.boundingBox();
  if (box) await page.mouse.move(box.x + 40, box.y + box.height / 2, { steps: 4 });
  await expect(page.getByText('Preview')).toBeVisible();
}

test.describe('what is only shown reaches nothing but the picture and the ear', () => {
  const suggestion = (page: Page) => page.locator('es-fits-panel li button').nth(3);

  test('export, while resting on a suggestion; what is taken is what was shown, the swing included', async ({
    page,
  }) => {
    await openDemo(page);
    await test.step('export, while resting on a suggestion', async () => {
      await listened(page);
      const before = await file(page);
      await rest(page, suggestion(page));
      const download = page.waitForEvent('download');
      await page.keyboard.press('Control+s');
      expect(readFileSync(await (await download).path()).toString('base64')).toBe(before);
      await page.mouse.move(600, 300);
      await expect(page.getByText('Preview')).toHaveCount(0);
      await expect(undo(page)).toBeDisabled();
    });

    await test.step('what is taken is what was shown, the swing included', async () => {
      await page
        .getByRole('list', { name: 'Tracks' })
        .getByRole('button', { name: /Brush kit/ })
        .first()
        .click();
      await listened(page);
      const swung = page.locator('es-fits-panel li button').filter({ hasText: '1/32 ~' });
      const percent = /~([\d.]+)%/.exec((await swung.innerText()).replace(/\s/g, ''))?.[1];
      await swung.click();
      await expect(page.locator('es-quantize-stage .sentence')).toContainText(`lines swung ${percent} %`);
      await expect(page.getByRole('button', { name: '1/32', exact: true })).toBeVisible();
    });
  });

  for (const [what, act] of [
    ['Keep', (page: Page) => page.keyboard.press('k')],
    ['a change by a key', (page: Page) => page.keyboard.press('n')],
  ] as const) {
    test(`${what}, while resting on a suggestion`, async ({ page }) => {
      await openDemo(page);
      await listened(page);
      const before = await file(page);
      await rest(page, suggestion(page));
      await act(page);
      await page.mouse.move(600, 300);
      await expect(page.getByText('Preview')).toHaveCount(0);
      expect(await file(page)).toBe(before);
      await expect(page.getByRole('switch', { name: 'Put starts on lines' })).not.toBeChecked();
      await reload(page);
      expect(await file(page)).toBe(before);
    });
  }

  test('what is looked at is neither saved nor pushed, and what comes under a pointer that lies still is not shown', async ({
    page,
  }) => {
    await openDemo(page);
    await listened(page);
    await test.step('what comes under a pointer that lies still is not shown', async () => {
      await page.getByRole('button', { name: 'Recipes' }).click();
      await page.getByRole('button', { name: /^Latency away/ }).click();
      await expect(page.getByRole('dialog', { name: 'Recipes' })).toHaveCount(0);
      await expect(page.getByText(/\d ms of (rush|lag)\./)).toBeVisible();
      await expect(page.getByText('Preview')).toHaveCount(0);
      await expect(page.getByRole('switch', { name: 'Put starts on lines' })).not.toBeChecked();
      await page.keyboard.press('Control+z');
    });

    await test.step('a push that is typed while a recipe was looked at is a push alone', async () => {
      await page.getByRole('button', { name: 'push or pull' }).click();
      await page.getByRole('button', { name: 'Recipes' }).click();
      await rest(page, page.getByRole('button', { name: /^Tight drums/ }));
      await page.keyboard.press('Escape');
      await expect(page.getByText('Preview')).toHaveCount(0);
      await expect(page.getByRole('dialog', { name: 'Recipes' })).toHaveCount(0);
      await typeAmount(page, 'Earlier · later', '10 ms');
      await expect(page.getByRole('switch', { name: 'Put starts on lines' })).not.toBeChecked();
      await expect(page.getByRole('switch', { name: 'Push or pull' })).toBeChecked();
      await expect(undo(page)).toHaveAttribute('title', /Push or pull/);
      await reload(page);
      await expect(page.getByRole('switch', { name: 'Push or pull' })).toBeChecked();
      await expect(page.getByRole('switch', { name: 'Put starts on lines' })).not.toBeChecked();
    });

    await test.step('Save in the recipes saves what is set, not what is looked at', async () => {
      await typeAmount(page, 'Strength', '37 %');
      await page.getByRole('button', { name: 'Recipes' }).click();
      const panel = page.getByRole('dialog', { name: 'Recipes' });
      await typeInto(page, panel.getByLabel('Name of the recipe'), 'Mine');
      await rest(page, panel.getByRole('button', { name: /^Tight drums/ }));
      await page.keyboard.press('Enter');
      const download = page.waitForEvent('download');
      await panel.getByRole('button', { name: 'Export Mine' }).click();
      expect(JSON.parse(readFileSync(await (await download).path(), 'utf8')).treatment.quantize.strength).toBe(0.37);
    });
  });
});
