import { expect, test, type Page } from '@playwright/test';
import { choose, typeInto } from './hands';
import { lastStep, notesNow, openNotes, runCommand } from './shaping';
import { plainNote } from './support';

/** A line on channel 1 and one on channel 2, in one track. */
const BOTH = Array.from({ length: 8 }, (_, i) => ({
  ...plainNote(i, i * 480, i % 2 ? 64 : 60),
  channel: i % 2,
}));

const strip = (page: Page) => page.getByRole('region', { name: 'Track', exact: true });
const names = (page: Page) => page.getByRole('list', { name: 'Tracks' }).locator('b');

async function openTrack(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: `Name and instrument of ${name}` }).click();
  await expect(strip(page)).toBeVisible();
}

test('a track is named, transposed, delayed; tracks are split, put in order, merged and deleted; undo brings all back', async ({
  page,
}) => {
  await test.step('a track is named, transposed, delayed and sent on another channel; its notes stay what they are', async () => {
    await openNotes(page, 'Duo', BOTH);
    const before = await notesNow(page);
    await openTrack(page, 'Duo');
    await typeInto(page, strip(page).getByLabel('Name of the track'), 'Two flutes');
    await page.keyboard.press('Enter');
    await expect(names(page)).toHaveText(['Two flutes']);
    await typeInto(page, strip(page).getByLabel('Transposition in semitones'), '12');
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Transpose Two flutes');
    // At 120 BPM a ms is 1.92 ticks.
    await typeInto(page, strip(page).getByLabel('Delay in ms'), '50');
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Delay of Two flutes');
    await choose(page, 'Channel', 'channel 5');
    const now = await notesNow(page);
    expect(now.map((n) => [n.channel, n.pitch, n.start])).toEqual(before.map((n) => [4, n.pitch + 12, n.start + 96]));
    // What cannot be is said, and the old value is there again.
    await typeInto(page, strip(page).getByLabel('Transposition in semitones'), '900');
    await page.keyboard.press('Enter');
    await expect(page.getByText('Type a number from −60 to 60 semitones.')).toBeVisible();
    await expect(strip(page).getByLabel('Transposition in semitones')).toHaveValue('12');
    for (let n = 0; n < 4; n++) await page.getByRole('button', { name: 'Undo', exact: true }).click();
    expect(await notesNow(page)).toEqual(before);
    await expect(names(page)).toHaveText(['Duo']);
    await page.keyboard.press('Escape');
    await expect(strip(page)).toHaveCount(0);
  });

  await test.step('tracks are split, put in order, merged, duplicated and deleted, the last one too; undo brings all back', async () => {
    await openNotes(page, 'Duo', BOTH);
    const before = await notesNow(page);
    await openTrack(page, 'Duo');
    await strip(page).getByRole('button', { name: 'Split by channel' }).click();
    await expect(names(page)).toHaveText(['Duo channel 1', 'Duo channel 2']);
    const sorted = (notes: typeof before) => notes.map((n) => `${n.start} ${n.pitch} ${n.channel} ${n.end}`).sort();
    expect(sorted(await notesNow(page))).toEqual(sorted(before));
    await strip(page).getByRole('button', { name: 'Down' }).click();
    await expect(names(page)).toHaveText(['Duo channel 2', 'Duo channel 1']);
    await strip(page).getByRole('button', { name: 'Down' }).click();
    await expect(page.getByText('“Duo channel 1” is the last track already.')).toBeVisible();
    await strip(page).getByRole('button', { name: 'Merge' }).click();
    await expect(page.getByText(/Choose two or more tracks to merge/)).toBeVisible();
    await page.keyboard.down('Shift');
    await page
      .getByRole('button', { name: /^Duo channel 2/ })
      .first()
      .click();
    await page.keyboard.up('Shift');
    await expect(strip(page)).toContainText('2 tracks');
    await strip(page).getByRole('button', { name: 'Merge' }).click();
    await expect(names(page)).toHaveText(['Duo channel 2']);
    expect(sorted(await notesNow(page))).toEqual(sorted(before));
    // By keys alone.
    await runCommand(page, 'duplicate the track');
    await expect(names(page)).toHaveText(['Duo channel 2', 'Duo channel 2 copy']);
    expect(await notesNow(page)).toHaveLength(2 * before.length);
    await runCommand(page, 'delete the chosen tracks');
    await runCommand(page, 'delete the chosen tracks');
    await expect(names(page)).toHaveCount(0);
    await expect(page.getByText('This song is empty.')).toBeVisible();
    for (let n = 0; n < 6; n++) await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(names(page)).toHaveText(['Duo']);
    expect(await notesNow(page)).toEqual(before);
  });
});
