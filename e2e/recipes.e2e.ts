import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { tabTo, typeAmount, typeInto } from './hands';
import { byStart, exported, exportMidi, listened, openDemo, played, readMidi } from './support';

const quantize = (page: Page) => page.getByRole('switch', { name: 'Put starts on lines' });

test('recipes are used by pointer and by the keyboard alone, saved, renamed, exported, deleted and brought back', async ({
  page,
}) => {
  await openDemo(page);
  await test.step('recipes are used and saved by the keyboard alone', async () => {
    await listened(page);
    await page.keyboard.press('Control+k');
    await page.keyboard.type('recipes');
    await page.keyboard.press('Enter');
    const panel = page.getByRole('dialog', { name: 'Recipes' });
    await expect(panel.getByRole('button', { name: /^Tight drums/ })).toBeFocused();
    await page.keyboard.press('Tab');
    await expect(panel.getByRole('button', { name: /^Tight but breathing/ })).toBeFocused();
    // What has the focus is shown, and goes with it.
    await expect(page.getByText('Preview: Tight but breathing')).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(panel).toHaveCount(0);
    await expect(page.getByText('Preview')).toHaveCount(0);
    await expect(page.getByRole('button', { name: 'Recipes' })).toBeFocused();
    await page.keyboard.press('Enter');
    await tabTo(page, panel.getByRole('button', { name: /^Tight but breathing/ }));
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: '66 %' })).toBeVisible();
    await page.keyboard.press('y');
    await tabTo(page, panel.getByLabel('Name of the recipe'));
    await page.keyboard.type('By key');
    await page.keyboard.press('Enter');
    await expect(panel.getByRole('button', { name: 'By key', exact: true })).toBeVisible();
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
  });

  await test.step('recipes are shown, applied, saved, renamed, exported, deleted and brought back', async () => {
    const recipes = page.getByRole('button', { name: 'Recipes' });
    const panel = page.getByRole('dialog', { name: 'Recipes' });
    await recipes.click();
    const joined = panel.getByRole('button', { name: /^Joined bass/ });
    await joined.hover();
    await expect(page.getByText('Preview: Joined bass.')).toBeVisible();
    // The picture shows it, the sentences stay what is set, and nothing moves under the pointer.
    await expect(page.locator('es-lengths-stage')).toContainText('Keep lengths');
    await panel.getByRole('button', { name: /^Tight but breathing/ }).click();
    await expect(page.getByRole('button', { name: '66 %' })).toBeVisible();
    await expect(page.getByText(/\d ms of rush\./)).toBeVisible();
    await expect(page.getByText('Preview')).toHaveCount(0);
    await recipes.click();
    const save = async (name: string) => {
      await typeInto(page, panel.getByLabel('Name of the recipe'), name);
      await page.keyboard.press('Enter');
    };
    const own = (name: string) => panel.getByRole('button', { name, exact: true });
    await save('Crew standard');
    await expect(own('Crew standard')).toBeVisible();
    await save('Crew standard');
    await expect(panel.getByText('“Crew standard” already exists.')).toBeVisible();
    await panel.getByRole('button', { name: 'Rename Crew standard' }).click();
    await expect(panel.getByLabel('New name of Crew standard')).toBeFocused();
    await page.keyboard.press('Control+a');
    await page.keyboard.type('Night crew');
    await page.keyboard.press('Enter');
    await expect(own('Night crew')).toBeFocused();
    const download = page.waitForEvent('download');
    await panel.getByRole('button', { name: 'Export Night crew' }).click();
    const written = JSON.parse(readFileSync(await (await download).path(), 'utf8'));
    expect(written).toMatchObject({ name: 'Night crew', treatment: { quantize: { strength: 0.66 } } });
    for (const name of ['Night crew']) await panel.getByRole('button', { name: `Delete ${name}` }).click();
    await expect(own('Night crew')).toHaveCount(0);
    await panel.getByRole('button', { name: 'Undo' }).click();
    await expect(own('Night crew')).toBeVisible();
  });
});

test('kept notes are the part’s own and sound as before; the file as played is the take', async ({ page }) => {
  await openDemo(page);
  await quantize(page).click();
  await page.getByRole('button', { name: 'push or pull' }).click();
  await typeAmount(page, 'Earlier · later', '10 ms');
  const before = byStart(await exported(page, 1));
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Keep the part as corrected' }).click();
  await expect(quantize(page)).not.toBeChecked();
  expect(byStart(await exported(page, 1))).toEqual(before);
  const take = readMidi(await exportMidi(page, 'as played')).notes.filter((n) => n.track === 1);
  expect(byStart(take)).toEqual(byStart(played(1)));
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Return the part to the take' }).click();
  expect(byStart(await exported(page, 1))).toEqual(byStart(played(1)));
});
