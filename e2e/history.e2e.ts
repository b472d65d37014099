import { expect, test, type Page } from '@playwright/test';
import { typeInto } from './hands';
import { lastStep, notesNow, openNotes } from './shaping';
import { painted, plainNote } from './support';

const EIGHT = Array.from({ length: 8 }, (_, i) => plainNote(i, i * 480, i % 2 ? 64 : 60));

const strip = (page: Page) => page.getByRole('region', { name: 'History' });
const step = (page: Page, name: string) => strip(page).getByRole('button', { name });
const starts = async (page: Page) => (await notesNow(page)).map((n) => n.start);
const picture = (page: Page) => page.locator('es-timing-view .canvas').screenshot();

/** Three steps: later by a tick, an octave up, all erased. */
async function workOn(page: Page): Promise<void> {
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Alt+ArrowRight');
  await page.keyboard.press('Alt+Shift+ArrowUp');
  await page.keyboard.press('Delete');
}

test('a press goes to a step, a held one shows it, and a mark has a name', async ({ page }) => {
  await test.step('a press that is held shows the song as it was and leaves no trace; Escape and a lost window end it', async () => {
    await openNotes(page, 'Hold', EIGHT);
    await workOn(page);
    await page.keyboard.press('Shift+h');
    // The strip takes some of the picture's height: it is looked at once that is so.
    await expect(step(page, 'Erase 8 notes')).toHaveAttribute('aria-current', 'step');
    await painted(page);
    const erased = await picture(page);
    await step(page, 'Move 8 notes').hover();
    await page.mouse.down();
    await expect(strip(page)).toContainText('As it was: Move 8 notes');
    const looked = await picture(page);
    expect(looked.equals(erased)).toBe(false);
    await page.mouse.up();
    await expect(strip(page)).toContainText('Press a step to go there.');
    await expect.poll(async () => (await picture(page)).equals(erased)).toBe(true);
    await expect.poll(() => lastStep(page)).toBe('Erase 8 notes');
    // The same by a key that is held, and taken back by Escape.
    await step(page, 'The beginning').press('ArrowLeft');
    await page.keyboard.down('Enter');
    await expect(strip(page)).toContainText('As it was: The beginning');
    await page.keyboard.press('Escape');
    await expect(strip(page)).toContainText('Press a step to go there.');
    await page.keyboard.up('Enter');
    await expect.poll(() => lastStep(page)).toBe('Erase 8 notes');
    await expect(step(page, 'Erase 8 notes')).toHaveAttribute('aria-current', 'step');
    await page.getByRole('button', { name: 'History' }).click();
    await expect(strip(page)).toHaveCount(0);
  });

  await test.step('a mark is a step with a name, found again by the search', async () => {
    await openNotes(page, 'Mark', EIGHT);
    await page.keyboard.press('Control+a');
    await page.keyboard.press('Alt+ArrowRight');
    await page.keyboard.press('Shift+h');
    await strip(page).getByRole('button', { name: 'Mark', exact: true }).click();
    await expect(page.getByText('Type a name for the mark first.')).toBeVisible();
    await typeInto(page, strip(page).getByLabel('Name of the mark'), 'before the chorus');
    await page.keyboard.press('Enter');
    await expect(step(page, '★ before the chorus')).toHaveAttribute('aria-current', 'step');
    const marked = await starts(page);
    await page.mouse.click(700, 300);
    await page.keyboard.press('Control+a');
    await page.keyboard.press('Delete');
    await typeInto(page, strip(page).getByLabel('Search the history'), 'CHORUS');
    await expect(strip(page).getByRole('listitem')).toHaveCount(1);
    await step(page, '★ before the chorus').click();
    expect(await starts(page)).toEqual(marked);
    await typeInto(page, strip(page).getByLabel('Search the history'), 'nothing like it');
    await expect(strip(page)).toContainText('No step has these words.');
    await page.getByRole('button', { name: 'History' }).click();
    await expect(strip(page)).toHaveCount(0);
  });

  await test.step('a press goes to a step, back and forth, and nothing is lost; it is all there after a reload', async () => {
    await openNotes(page, 'Steps', EIGHT);
    const before = await starts(page);
    await workOn(page);
    await page.keyboard.press('Shift+h');
    await expect(strip(page).getByRole('listitem')).toHaveCount(4);
    await expect(step(page, 'Erase 8 notes')).toHaveAttribute('aria-current', 'step');
    await step(page, 'Move 8 notes').click();
    await expect(step(page, 'Move 8 notes')).toHaveAttribute('aria-current', 'step');
    expect(await starts(page)).toEqual(before.map((s) => s + 1));
    await step(page, 'The beginning').click();
    expect(await starts(page)).toEqual(before);
    await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
    // By keys, to the step before the last: arrows go from step to step.
    await step(page, 'The beginning').press('ArrowRight');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toMatch(/^Transpose 8 notes/);
    await page.reload();
    await page.getByRole('button', { name: 'History' }).click();
    // What was undone is not kept over a reload; what was done is, with its time.
    await expect(step(page, 'Move 8 notes')).toHaveText(/\d\d:\d\d/);
    await step(page, 'The beginning').click();
    expect(await starts(page)).toEqual(before);
  });
});
