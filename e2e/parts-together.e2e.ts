import { expect, test, type Page } from '@playwright/test';
import { boxOf, carry, drag } from './hands';
import { lastStep, notesNow, openNotes, runCommand } from './shaping';
import { byStart, plainNote, reload, type FileNote } from './support';

const BAR = 3840;
/** A bar of quarters, each 30 ticks late, on two channels; they become two tracks. */
const LATE = Array.from({ length: 8 }, (_, i) => ({
  ...plainNote(i, (i >> 1) * 960 + 30, 60 + (i % 2)),
  channel: i % 2,
}));

const strip = (page: Page) => page.getByRole('region', { name: 'Parts' });
const press = (page: Page, name: string) => strip(page).getByRole('button', { name, exact: true }).click();
const names = (page: Page) => page.getByRole('list', { name: 'Tracks', exact: true }).locator('b');
const ofPitch = (notes: readonly FileNote[], pitch: number) =>
  byStart(notes.filter((n) => n.pitch === pitch)).map((n) => n.start);

/** Two tracks, and the song view with both their parts chosen. */
async function twoParts(page: Page): Promise<{ x: number; y: number; row: number }> {
  await openNotes(page, 'Duo', LATE);
  await runCommand(page, 'Split the track by channel');
  await expect(names(page)).toHaveCount(2);
  await page.keyboard.press('Shift+o');
  const heads = page.getByRole('list', { name: 'Tracks of the song view' });
  await expect(heads.getByRole('listitem')).toHaveCount(2);
  await page.keyboard.press('Shift+p');
  const box = await boxOf(page.locator('es-overview'));
  const head = await boxOf(heads.getByRole('listitem').first());
  // The rows stand beside their tracks.
  const y = head.y + head.height / 2;
  await page.mouse.click(box.x + 40, y);
  await page.keyboard.down('Shift');
  await page.mouse.click(box.x + 40, y + head.height);
  await page.keyboard.up('Shift');
  await expect(strip(page)).toContainText('2 parts');
  return { x: box.x, y, row: head.height };
}

async function where(page: Page): Promise<{ x: number; y: number; row: number }> {
  const box = await boxOf(page.locator('es-overview'));
  const head = await boxOf(page.getByRole('list', { name: 'Tracks of the song view' }).getByRole('listitem').first());
  return { x: box.x, y: head.y + head.height / 2, row: head.height };
}

test('tracks are put in order by dragging them, and one change is for all chosen parts', async ({ page }) => {
  await test.step('tracks are put in order by dragging them, in the list and beside the song view; undo takes it back', async () => {
    await twoParts(page);
    await expect(names(page)).toHaveText(['Duo channel 1', 'Duo channel 2']);
    const heads = page.getByRole('list', { name: 'Tracks of the song view' }).getByRole('listitem');
    const [first, second] = [await boxOf(heads.first()), await boxOf(heads.last())];
    await drag(page, [first.x + 40, first.y + 12], [second.x + 40, second.y + second.height - 4]);
    await expect(names(page)).toHaveText(['Duo channel 2', 'Duo channel 1']);
    await expect.poll(() => lastStep(page)).toBe('Move Duo channel 1');
    const rows = page.getByRole('list', { name: 'Tracks', exact: true }).getByRole('listitem');
    const [upper, lower] = [await boxOf(rows.first()), await boxOf(rows.last())];
    await drag(page, [lower.x + 30, lower.y + 16], [upper.x + 30, upper.y + 2]);
    await expect(names(page)).toHaveText(['Duo channel 1', 'Duo channel 2']);
    // Escape takes a drag back.
    await carry(page, [first.x + 40, first.y + 12], [second.x + 40, second.y + second.height - 4]);
    await page.keyboard.press('Escape');
    await page.mouse.up();
    await expect(names(page)).toHaveText(['Duo channel 1', 'Duo channel 2']);
    await page.keyboard.press('Control+z');
    await expect(names(page)).toHaveText(['Duo channel 2', 'Duo channel 1']);
    expect((await notesNow(page)).map((n) => n.start).slice(-1)[0]).toBeLessThan(BAR);
    await page.keyboard.press('Shift+p');
    await page.keyboard.press('Shift+o');
  });

  await test.step('one change is for all chosen parts, over tracks: treatment, on and off, the same for all, colour', async () => {
    await twoParts(page);
    await page.getByRole('switch', { name: 'Put starts on lines' }).click();
    await expect.poll(() => lastStep(page)).toContain('2 parts');
    let notes = await notesNow(page);
    for (const pitch of [60, 61]) expect(ofPitch(notes, pitch)).toEqual([0, 960, 1920, 2880]);
    await press(page, 'Treatment off');
    notes = await notesNow(page);
    for (const pitch of [60, 61]) expect(ofPitch(notes, pitch)).toEqual([30, 990, 1950, 2910]);
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    // Only the first is treated; then the other gets the same.
    await page.getByRole('list', { name: 'Tracks of the song view' }).getByRole('button').first().click();
    await page.getByRole('switch', { name: 'Put starts on lines' }).click();
    expect(ofPitch(await notesNow(page), 61)).toEqual([30, 990, 1950, 2910]);
    const { x, y, row } = await where(page);
    await page.mouse.click(x + 40, y);
    await page.keyboard.down('Shift');
    await page.mouse.click(x + 40, y + row);
    await page.keyboard.up('Shift');
    await press(page, 'Same treatment');
    await expect.poll(() => lastStep(page)).toMatch(/^Treat Duo.* like /);
    expect(ofPitch(await notesNow(page), 61)).toEqual([0, 960, 1920, 2880]);
    await strip(page).getByRole('button', { name: 'Colour of the parts' }).click();
    await page.getByRole('menuitem', { name: 'Pine' }).click();
    await expect.poll(() => lastStep(page)).toBe('Colour 2 parts');
    await reload(page);
    await expect(names(page)).toHaveCount(2);
    await page.keyboard.press('Shift+p');
    const dot = strip(page).locator('es-colour-menu .dot').first();
    await expect(dot).toHaveCSS('background-color', 'rgb(47, 133, 116)');
  });
});
