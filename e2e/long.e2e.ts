import { setTimeout as sleep } from 'node:timers/promises';
import { expect, test } from '@playwright/test';
import { GOES_ON_MS } from '@early-sparrow/core/edit';
import { longTake } from './long-take';
import { exportByKey, importFile, midicsv, openSongs } from './support';
import { lastStep } from './shaping';

/** Where notes start, in ticks, by the lines of the file as another program reads it. */
const startsOf = (lines: readonly string[]): number[] =>
  lines.flatMap((line) => {
    const [, tick, kind, , , velocity] = line.split(', ');
    return kind === 'Note_on_c' && velocity !== '0' ? [Number(tick)] : [];
  });

test('all notes of a long take are nudged and taken back at once, and are there after a reload', async ({ page }) => {
  const count = 30_000;
  await openSongs(page);
  await importFile(page, { name: 'Long take.mid', mimeType: 'audio/midi', buffer: longTake(count) });
  const canvas = page.locator('es-timing-view canvas').first();
  await expect(canvas).toBeVisible();
  const starts = async () => startsOf(midicsv(await exportByKey(page)));
  const before = await starts();
  expect(before).toHaveLength(count);
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Alt+ArrowRight');
  await expect.poll(() => lastStep(page)).toBe('Move 30000 notes');
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  const later = (ticks: number) => before.map((start) => start + ticks);
  expect(await starts()).toEqual(later(1));
  // Undo comes while the next nudge is worked out. So long after the first one it is a step of its own.
  await sleep(GOES_ON_MS);
  await page.keyboard.press('Alt+ArrowRight');
  await page.keyboard.press('Control+z');
  const redo = page.getByRole('button', { name: 'Redo' });
  await expect(redo).toBeEnabled();
  expect(await starts()).toEqual(later(1));
  await page.keyboard.press('Control+y');
  await expect(redo).toBeDisabled();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  await page.reload();
  await expect(canvas).toBeVisible();
  expect(await starts()).toEqual(later(2));
  for (const left of [1, 0]) {
    await page.keyboard.press('Control+z');
    await expect(page.getByText('saved', { exact: true })).toBeVisible();
    expect(await starts()).toEqual(later(left));
  }
});
