import { expect, test, type Page } from '@playwright/test';
import { choose, drag } from './hands';
import { lastStep } from './shaping';
import { byStart, exported, openDemo, roll, selectTrack } from './support';

const RECORDED = 6;
const BAR = 3840;

const strip = (page: Page) => page.getByRole('region', { name: 'Best of the takes' });
const rows = (page: Page) => strip(page).locator('tbody tr');
const cell = (page: Page, take: number, bar: number) =>
  rows(page)
    .nth(take)
    .getByRole('button', { name: `Bar ${bar + 1}` });

/** The notes of the recording in each of its two bars; an early downbeat belongs to its bar. */
async function bars(page: Page): Promise<string[]> {
  const notes = byStart(await exported(page, RECORDED)).map((n) => ({ ...n, bar: n.start < BAR - 120 ? 0 : 1 }));
  return [0, 1].map((bar) =>
    notes
      .filter((n) => n.bar === bar)
      .map((n) => [n.start, n.pitch, n.velocity, n.end].join('.'))
      .join(' '),
  );
}

/** Plays rounds of two bars with the practice player, until the third is over. */
async function recordRounds(page: Page): Promise<void> {
  await openDemo(page);
  await selectTrack(page, 'Marimba');
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.keyboard.press('i');
  await choose(page, 'Input device', 'Practice player');
  const r = await roll(page);
  await drag(page, [r.at(0), r.loopY], [r.at(2 * BAR), r.loopY]);
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  // The loop's first bar comes again for the fourth time: three rounds are whole.
  const place = page.locator('es-transport .place');
  for (let round = 0; round < 4; round++) {
    await expect(place).toHaveText(/^1\./, { timeout: 30_000 });
    if (round < 3) await expect(place).toHaveText(/^2\./, { timeout: 30_000 });
  }
  await page.keyboard.press('Space');
  await page.keyboard.press('i');
}

test('takes are compared bar by bar, the best put together, swapped by hand, heard in place, and undone', async ({
  page,
}) => {
  await recordRounds(page);
  const takes = page.getByRole('radiogroup', { name: 'Takes' });
  const each: string[][] = [];
  for (let k = 0; k < 3; k++) {
    await takes.getByRole('radio', { name: `Take ${k + 1}` }).click();
    each.push(await bars(page));
  }
  expect(new Set(each.flat()).size).toBe(6);
  await page.getByRole('button', { name: 'Compare bar by bar' }).click();
  await expect(rows(page).first()).toContainText('Take 1');
  await expect(strip(page).getByRole('status')).toContainText('Best of the takes:');
  await strip(page).getByRole('button', { name: 'Put the best together' }).click();
  await expect.poll(() => lastStep(page)).toBe('Best of the takes');
  await expect(strip(page).getByRole('button', { name: 'The best are put together' })).toBeDisabled();
  const used = async (bar: number) => {
    for (let k = 0; k < 3; k++) if ((await cell(page, k, bar).getAttribute('aria-pressed')) === 'true') return k;
    return -1;
  };
  const [first, second] = [await used(0), await used(1)];
  expect(await bars(page)).toEqual([each[first][0], each[second][1]]);
  // Another take by hand: that bar alone changes.
  const other = (second + 1) % 3;
  await cell(page, other, 1).click();
  await expect.poll(() => lastStep(page)).toBe(`Bar 2 from Take ${other + 1}`);
  await expect(cell(page, other, 1)).toHaveAttribute('aria-pressed', 'true');
  const swapped = await bars(page);
  expect(swapped).toEqual([each[first][0], each[other][1]]);
  // Held, another one sounds there, and nothing comes of it.
  const third = (second + 2) % 3;
  await cell(page, third, 1).hover();
  await page.mouse.down();
  await expect(strip(page).getByRole('status')).toContainText(`You hear: Bar 2, Take ${third + 1}`);
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect(page.locator('es-transport .place')).toHaveText(/^2\./, { timeout: 15_000 });
  await page.mouse.up();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await expect.poll(() => lastStep(page)).toBe(`Bar 2 from Take ${other + 1}`);
  expect(await bars(page)).toEqual(swapped);
  // By keys: to the first take's first bar, and used there.
  await cell(page, 0, 0).press('ArrowRight');
  await page.keyboard.press('ArrowLeft');
  if (first !== 0) {
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Bar 1 from Take 1');
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
  }
  // The takes that were played are what they were, and undone the last one chosen sounds again.
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  expect(await bars(page)).toEqual(each[2]);
  await strip(page).getByRole('button', { name: 'Close' }).click();
  await expect(takes.getByRole('radio', { name: 'Take 3' })).toBeChecked();
  await expect(takes.getByRole('radio', { name: 'Best of the takes' })).toHaveCount(0);
});

test('a part with one take says how it gets more', async ({ page }) => {
  await openDemo(page);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('best of the takes');
  await page.keyboard.press('Enter');
  await expect(strip(page)).toContainText('This part has one take. Record it over a loop: each round becomes a take.');
});
