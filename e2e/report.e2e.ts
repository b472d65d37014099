import { expect, test } from '@playwright/test';
import { boxOf } from './hands';
import { lastStep, notesNow, openNotes, runCommand } from './shaping';
import { openDemo, plainNote } from './support';

test('who is ahead of whom: a heat map and a table of all tracks; a press lines one up with the other', async ({
  page,
}) => {
  await openDemo(page);
  await page.getByRole('radio', { name: 'As played', exact: true }).click();
  await page.keyboard.press('Shift+M');
  // The lag of the best grid, early: with its sign.
  const lag = page
    .getByRole('figure')
    .filter({ hasText: 'What fits' })
    .getByRole('row')
    .nth(1)
    .getByRole('cell')
    .last();
  await expect(lag).toHaveText(/^−1\d\.\d$/);
  const figure = page.locator('es-ensemble-figure');
  const table = figure.getByRole('table', { name: 'Who is ahead of whom' });
  await expect(table.getByRole('row')).toHaveCount(6, { timeout: 60_000 });
  // The piano is 24 ms late throughout; the marimba rushes.
  const cell = table.getByRole('button', { name: /^Electric piano plays .* behind Marimba/ });
  const behind = Number(/plays ([\d.]+) ms behind/.exec((await cell.getAttribute('aria-label')) ?? '')?.[1]);
  expect(behind).toBeGreaterThan(25);
  expect(behind).toBeLessThan(45);
  await expect(table.getByRole('button', { name: /^Marimba plays .* ahead of Electric piano/ })).toHaveText(
    `−${behind.toFixed(1)}`,
  );
  await figure.getByRole('button', { name: 'As a table' }).click();
  await cell.click();
  await expect.poll(() => lastStep(page)).toBe('Line up Electric piano with Marimba');
  await expect(page.getByRole('heading', { name: 'Electric piano', exact: true })).toBeVisible();
  await page.keyboard.press('Control+z');
  // In the picture by a press on the cell: the second row against the first column.
  await figure.getByRole('button', { name: 'As a table' }).click();
  const canvas = figure.locator('canvas').first();
  await canvas.scrollIntoViewIfNeeded();
  const box = await boxOf(canvas);
  await page.mouse.click(box.x + 32, box.y + 26 + 13);
  await expect.poll(() => lastStep(page)).toBe('Line up Upright bass with Marimba');
});

test('corrected, the tracks are told anew; one track, and tracks that never play together, are said', async ({
  page,
}) => {
  const both = Array.from({ length: 16 }, (_, i) => ({
    ...plainNote(i, Math.floor(i / 2) * 960 + (i % 2 ? 58 : 0), 60 + (i % 2)),
    channel: i % 2,
  }));
  await openNotes(page, 'Duo', both);
  await page.keyboard.press('Shift+M');
  const figure = page.locator('es-ensemble-figure');
  await expect(figure.getByText('Only one track plays')).toBeVisible();
  await runCommand(page, 'Split the track by channel');
  const cell = figure.getByRole('button', { name: /^Duo channel 2 plays .* behind Duo channel 1/ });
  // 58 ticks at 120 BPM and 960 ticks a quarter.
  await expect(cell).toHaveAttribute('aria-label', /30\.2 ms behind .* 8 times together/);
  await page
    .getByRole('list', { name: 'Tracks', exact: true })
    .getByRole('listitem')
    .last()
    .getByRole('button')
    .first()
    .click();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await expect(figure.getByRole('button', { name: /^Duo channel 2 plays together with Duo channel 1/ })).toBeAttached();
  expect((await notesNow(page)).filter((n) => n.start % 960 === 0)).toHaveLength(16);
});
