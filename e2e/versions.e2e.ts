import { expect, test } from '@playwright/test';
import { slide, typeInto } from './hands';
import { exported, exportMidi, openDemo, readMidi, selectTrack } from './support';

const MARIMBA = 1;

test('two versions of a treatment are switched while it plays, compared blind, and one is chosen', async ({ page }) => {
  await openDemo(page);
  await selectTrack(page, 'Marimba');
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  const starts = async () => (await exported(page, MARIMBA)).map((n) => n.start);
  const full = await starts();
  const versions = page.getByRole('radiogroup', { name: 'Versions of the treatment' });
  await page.getByRole('button', { name: 'New version' }).click();
  // The first is named by what it does; the second is what is worked on.
  await expect(versions.getByRole('radio', { name: '1/16, 100 %' })).toBeVisible();
  await slide(page, 'Strength', 40);
  const weak = await starts();
  expect(weak).not.toEqual(full);
  await page.keyboard.press('Space');
  await versions.getByRole('radio', { name: '1/16, 100 %' }).click();
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  expect(await starts()).toEqual(full);
  await versions.getByRole('radio', { name: 'Version 2' }).click();
  expect(await starts()).toEqual(weak);
  await page.keyboard.press('Space');

  await versions.getByRole('button', { name: 'Options for versions' }).click();
  await page.getByRole('menuitem', { name: 'Rename “Version 2”' }).click();
  await typeInto(page, page.getByLabel('Name of the version'), 'Loose');
  await page.keyboard.press('Enter');
  await versions.getByRole('button', { name: 'Options for versions' }).click();
  await page.getByRole('menuitem', { name: 'Compare blind with “1/16, 100 %”' }).click();
  const blind = page.getByRole('group', { name: 'Blind compare' });
  await expect(blind.getByText('Blind: one of the two is “Loose”.')).toBeVisible();
  await blind.getByRole('button', { name: 'the first' }).first().click();
  await blind.getByRole('button', { name: 'the second' }).nth(1).click();
  await expect(blind.getByText(/[01] of 1 right/)).toBeVisible();
  await blind.getByRole('button', { name: 'End' }).click();
  // Comparing changed nothing.
  expect(await starts()).toEqual(weak);
  await page.keyboard.press('Space');

  await versions.getByRole('button', { name: 'Options for versions' }).click();
  await page.getByRole('menuitem', { name: 'Use “Loose” and delete the others' }).click();
  await expect(versions.getByRole('radio')).toHaveCount(0);
  expect(await starts()).toEqual(weak);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(versions.getByRole('radio')).toHaveCount(2);
  for (let step = 0; step < 8; step++) await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
  const taken = readMidi(await exportMidi(page, 'as played'));
  expect(readMidi(await exportMidi(page, 'corrected'))).toEqual(taken);
});
