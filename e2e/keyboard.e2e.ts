import { expect, test, type Page } from '@playwright/test';
import { tabTo } from './hands';
import { byStart, exported, listened, openDemo, played, selectTrack } from './support';

const grid = (page: Page, text: string) => page.getByRole('button', { name: text, exact: true });
const rollOf = (page: Page) => page.getByRole('application');

test('the note that the arrows reach is selected, extended, pinned and moved', async ({ page }) => {
  await openDemo(page);
  await tabTo(page, rollOf(page));
  await page.keyboard.press('ArrowRight');
  await expect(page.locator('[aria-live=polite]').filter({ hasText: /bar 1 beat 1, / })).toHaveCount(1);
  await expect(page.getByText('One note selected:')).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByText('One note selected:')).toBeVisible();
  await page.keyboard.press('Shift+ArrowRight');
  await expect(page.getByText('2 notes selected:')).toBeVisible();
  await page.keyboard.press('p');
  await expect(page.getByRole('button', { name: 'Select 2 pinned' })).toBeVisible();
  const before = byStart(played(1));
  await page.keyboard.press('Alt+ArrowRight');
  await page.keyboard.press('Alt+ArrowRight');
  const [, second, third] = byStart(await exported(page, 1));
  expect([second.start, third.start]).toEqual([before[1].start + 2, before[2].start + 2]);
  await tabTo(page, rollOf(page));
  await page.keyboard.press('Alt+ArrowUp');
  expect(byStart(await exported(page, 1))[1].pitch).toBe(before[1].pitch + 1);
});

test('ten nudges of a note are one step', async ({ page }) => {
  await openDemo(page);
  await tabTo(page, rollOf(page));
  await page.keyboard.press('ArrowRight');
  const before = byStart(await exported(page, 1));
  await tabTo(page, rollOf(page));
  for (let i = 0; i < 10; i++) await page.keyboard.press('Alt+ArrowRight');
  const [first] = byStart(await exported(page, 1));
  expect(first.start).toBe(before[0].start + 10);
  await page.keyboard.press('Control+z');
  expect(byStart(await exported(page, 1))).toEqual(before);
});

test('the keyboard alone selects, chooses a grid and takes it back; keys belong to the field that has the focus', async ({
  page,
}) => {
  await openDemo(page);
  await test.step('the keyboard alone selects, chooses a grid and takes it back', async () => {
    await page.keyboard.press('Control+a');
    await expect(page.getByText('435 notes selected:')).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByText('435 notes selected:')).toHaveCount(0);
    await page.keyboard.press('e');
    await expect(page.getByText(/notes selected:/)).toBeVisible();
    await page.keyboard.press('8');
    await expect(page.getByText(/1\/8 for the whole part, not only \d+ selected notes/)).toBeVisible();
    await page.keyboard.press('t');
    await expect(grid(page, '1/8T')).toBeVisible();
    expect((await exported(page, 1)).every((n) => n.start % 320 === 0)).toBe(true);
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    expect(byStart(await exported(page, 1))).toEqual(byStart(played(1)));
    await page.keyboard.press('Control+y');
    await expect(grid(page, '1/8')).toBeVisible();
    await page.keyboard.press('Control+Shift+z');
    await expect(grid(page, '1/8T')).toBeVisible();
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Escape');
  });

  await test.step('keys belong to the field or slider that has the focus', async () => {
    const place = page.getByLabel('Bar, beat, sixteenth');
    await page.getByRole('button', { name: 'Recipes' }).click();
    const name = page.getByLabel('Name of the recipe');
    await name.click();
    await page.keyboard.type('quiet 8th bass');
    await page.keyboard.press('Home');
    await page.keyboard.type('A ');
    await expect(name).toHaveValue('A quiet 8th bass');
    await page.keyboard.press('Escape');
    await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
    // On a slider that Tab brought the focus to, Home is its beginning and a digit begins its field.
    await page.keyboard.press('ArrowRight');
    const strength = page.getByRole('slider', { name: 'Strength' });
    await tabTo(page, strength);
    await page.keyboard.press('Home');
    await expect(strength).toHaveValue('0');
    await expect(place).toHaveText('1.1.1');
    await page.keyboard.press('8');
    await expect(page.getByLabel('Strength, typed')).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(strength).toHaveValue('8');
    await expect(grid(page, '1/16')).toBeVisible();
    // The slider that began it has the focus again; Escape in the field gives it back too.
    await expect(strength).toBeFocused();
    await page.keyboard.press('ArrowUp');
    await expect(strength).toHaveValue('9');
    await page.keyboard.press('4');
    await page.keyboard.press('Escape');
    await expect(strength).toBeFocused();
    await expect(strength).toHaveValue('9');
    // Up and down step a field that the pointer went into; Enter there gives the keys back to the desk.
    await page.getByLabel('Strength, typed').click();
    await page.keyboard.press('ArrowUp');
    await expect(strength).toHaveValue('10');
    await page.keyboard.type('30');
    await page.keyboard.press('Enter');
    await expect(strength).toHaveValue('30');
    await page.keyboard.press('Space');
    await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
    await page.keyboard.press('Space');
    // One press of Enter is one step.
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(strength).toHaveValue('10');
  });
});

test('Tab does not break Escape; the pointer that rests chooses nothing; radio buttons have arrow keys', async ({
  page,
}) => {
  await openDemo(page);
  await test.step('Tab does not break Escape, which closes what was opened last', async () => {
    await page.keyboard.press('Shift+M');
    await expect(page.getByRole('heading', { name: /Timing report/ })).toBeVisible();
    await page.getByRole('button', { name: 'Recipes' }).click();
    const recipes = page.getByRole('dialog', { name: 'Recipes' });
    await page.keyboard.press('Tab');
    await page.keyboard.press('Tab');
    await page.keyboard.press('Escape');
    await expect(recipes).toHaveCount(0);
    await expect(page.getByRole('heading', { name: /Timing report/ })).toBeVisible();
    await page.keyboard.press('Tab');
    await page.keyboard.press('Escape');
    await expect(page.getByRole('heading', { name: /Timing report/ })).toHaveCount(0);
  });

  await test.step('the pointer that rests where the list of commands comes chooses nothing', async () => {
    await page.mouse.move(640, 200);
    await page.keyboard.press('Control+k');
    const options = page.getByRole('dialog', { name: 'Commands' }).getByRole('option');
    await expect(options.first()).toBeVisible();
    await page.keyboard.type('se');
    await expect(options.filter({ hasText: 'Select' }).first()).toBeVisible();
    await expect(options.first()).toHaveAttribute('aria-selected', 'true');
    await page.mouse.move(640, 206, { steps: 3 });
    await expect(options.first()).toHaveAttribute('aria-selected', 'false');
    await page.keyboard.press('Escape');
  });

  await test.step('groups of radio buttons have arrow keys', async () => {
    const side = (name: string) => page.getByRole('radio', { name, exact: true });
    await tabTo(page, side('Corrected'));
    await page.keyboard.press('ArrowLeft');
    await expect(side('As played')).toBeChecked();
    await expect(side('As played')).toBeFocused();
    await page.keyboard.press('ArrowRight');
    await expect(side('Corrected')).toBeChecked();
    await grid(page, '1/16').click();
    await tabTo(page, page.getByRole('radio', { name: 'sixteenth', exact: true }));
    await page.keyboard.press('ArrowLeft');
    await expect(page.getByRole('radio', { name: 'eighth', exact: true })).toBeChecked();
    await expect(grid(page, '1/8')).toBeVisible();
  });
});

test('everything, the selection and the loop come into view by key and by button', async ({ page }) => {
  await openDemo(page);
  await listened(page);
  const r = await page.locator('es-timing-view').boundingBox();
  if (!r) throw new Error('The roll is not there.');
  const barsText = page.getByRole('button', { name: /^Loop/ });
  // What is in view is told by the loop that takes the bars in view.
  const inView = async () => {
    await barsText.click();
    await expect(barsText).toContainText(/bars \d/);
    const text = await barsText.innerText();
    await barsText.click();
    return text;
  };
  await page.keyboard.press('v');
  expect(await inView()).toMatch(/bars 1–3\d/);
  await page.keyboard.press('Alt+Shift+V');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+W');
  await page.getByRole('group', { name: 'Show' }).getByRole('button', { name: 'all' }).click();
  await page.keyboard.press('Shift+v');
  await expect(page.getByText('No notes are selected')).toBeVisible();
  await selectTrack(page, /Clarinet/);
  await page.keyboard.press('Shift+W');
  await page.getByRole('group', { name: 'Show' }).getByRole('button', { name: 'selection' }).click();
  await expect(page.getByText('No notes are selected')).toHaveCount(0, { timeout: 15_000 });
});

test('after something is gone the focus is near', async ({ page }) => {
  await openDemo(page);
  await listened(page);
  const fits = page.locator('es-fits-panel');
  await tabTo(page, fits.getByRole('button', { name: 'Remove' }));
  await page.keyboard.press('Enter');
  await expect(fits.locator('li button').first()).toBeFocused();
  await tabTo(page, page.getByRole('button', { name: 'Put back: Remove a steady lag' }));
  await page.keyboard.press('Enter');
  await expect(page.getByRole('switch', { name: 'Remove a steady lag' })).toBeFocused();
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Escape');
  await tabTo(page, rollOf(page));
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('o');
  await tabTo(page, page.getByRole('button', { name: '← whole part' }));
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Marimba' })).toBeFocused();
});

test('a held Enter presses a button once, and creates one song', async ({ page }) => {
  await openDemo(page);
  const tracks = page.getByRole('list', { name: 'Tracks', exact: true }).getByRole('listitem');
  await expect(tracks).toHaveCount(5);
  const hold = async () => {
    for (let i = 0; i < 8; i++) await page.keyboard.down('Enter');
    await page.keyboard.up('Enter');
  };
  await tabTo(page, page.getByRole('button', { name: 'Add a track' }));
  await hold();
  await expect(tracks).toHaveCount(6);
  await page.keyboard.press('Control+z');
  await expect(tracks).toHaveCount(5);
  await page.getByRole('link', { name: 'All songs' }).click();
  const songs = page.getByRole('main').getByRole('listitem');
  await expect(songs).toHaveCount(1);
  await page.getByRole('button', { name: 'New song' }).click();
  await page.getByLabel('Name', { exact: true }).click();
  await page.keyboard.type('Held');
  await hold();
  await expect(page.getByRole('heading', { name: /Held/ })).toBeVisible();
  await page.getByRole('link', { name: 'All songs' }).click();
  await expect(songs).toHaveCount(2);
});
