import { expect, test, type Page } from '@playwright/test';
import { choose, drag, slide } from './hands';
import { byStart, exported, listened, onTruth, openDemo, played, roll, selectTrack, TRUTH } from './support';

// The five walks of docs/guide.md, step by step, with the real pointer and keys; each is held against the true rhythm.

const fits = (page: Page) => page.locator('es-fits-panel');
const takeBest = (page: Page) => fits(page).locator('li button').first().click();
const sentence = (page: Page) => page.locator('es-quantize-stage .sentence');

async function walkTo(page: Page, name: RegExp): Promise<void> {
  await openDemo(page);
  await selectTrack(page, name);
  await listened(page);
}
async function lagIs(page: Page, track: number): Promise<void> {
  const lag = await page.locator('es-lag-stage').innerText();
  const found = /none removed/.test(lag) ? 0 : Number(/([\d.]+) ms/.exec(lag)?.[1]) * (lag.includes('rush') ? -1 : 1);
  expect(Math.abs(found - TRUTH.tracks[track - 1].lagMs)).toBeLessThan(2);
}

test('Marimba: rushing', async ({ page }) => {
  await walkTo(page, /Marimba/);
  await expect(page.locator('es-timing-chip').first()).toContainText('11 ms early');
  await page.locator('.lean').click();
  await expect(page.locator('es-lag-stage')).toContainText('of rush');
  await fits(page)
    .getByRole('button', { name: /^Apply 1\/16:/ })
    .click();
  expect(onTruth(await exported(page, 1), 1)).toBeGreaterThanOrEqual(0.99);
  await lagIs(page, 1);
  await expect(page.locator('es-timing-chip').first()).toContainText(/11 ms early\s*→.*±0 ms/);
  await slide(page, 'Strength', 80);
  await expect(sentence(page)).toContainText('80 % of the way');
  const notes = byStart(await exported(page, 1));
  expect(notes.some((n, i) => n.start !== byStart(played(1))[i].start && n.start % 240 !== 0)).toBe(true);
});

test('Upright bass: behind, with ragged ends', async ({ page }) => {
  await walkTo(page, /Upright bass/);
  await fits(page).getByRole('button', { name: 'Remove' }).click();
  await expect(page.locator('es-lag-stage')).toContainText('of lag');
  await fits(page)
    .getByRole('button', { name: /^Apply 1\/8:/ })
    .click();
  await expect(sentence(page)).toContainText('1/8');
  await page.getByRole('button', { name: 'Keep lengths' }).click();
  await page.getByRole('radio', { name: 'legato' }).click();
  const notes = byStart(await exported(page, 2));
  expect(onTruth(notes, 2)).toBeGreaterThanOrEqual(0.99);
  await lagIs(page, 2);
  expect(notes.slice(0, -1).every((n, i) => n.end === notes[i + 1].start)).toBe(true);
});

test('Brush kit: a swing of its own', async ({ page }) => {
  await walkTo(page, /Brush kit/);
  await expect(fits(page).locator('li').first()).toContainText(/1\/16 ~62(\.\d)?%/);
  await takeBest(page);
  expect(onTruth(await exported(page, 3), 3)).toBeGreaterThanOrEqual(0.99);
  const r = await roll(page);
  await page.mouse.click(r.x + 30, (r.y + 42 + r.laneTop) / 2);
  await page.keyboard.press('o');
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await choose(page, 'Groove', 'Light sway');
  await expect(sentence(page)).toContainText('the lines of Light sway');
});

test('Electric piano: late by the machine', async ({ page }) => {
  await walkTo(page, /Electric piano/);
  await fits(page).getByRole('button', { name: 'Remove' }).click();
  await expect(page.locator('es-lag-stage')).toContainText('of lag');
  await lagIs(page, 4);
  await fits(page)
    .getByRole('button', { name: /^Apply 1\/8:/ })
    .click();
  await expect(sentence(page)).toContainText('1/8');
  expect(onTruth(await exported(page, 4), 4)).toBeGreaterThanOrEqual(0.99);
  await page.getByRole('button', { name: '100 %' }).click();
  await slide(page, 'Chord spread kept', 100);
  const starts = (await exported(page, 4)).map((n) => n.start);
  expect(new Set(starts).size).toBeGreaterThan(starts.length / 3);
});

test('Clarinet: sixteenths and triplets, a few wild notes', async ({ page }) => {
  await walkTo(page, /Clarinet/);
  await page.getByRole('button', { name: 'Move it to the bar' }).click();
  await fits(page)
    .getByRole('button', { name: /^Apply 1\/16\+1\/8T:/ })
    .click();
  expect(onTruth(await exported(page, 5), 5)).toBeGreaterThanOrEqual(0.97);
  await page.keyboard.press('Shift+W');
  const chosen = Number(/(\d+|One) notes? selected/.exec(await page.locator('.selection').innerText())?.[1] ?? 0);
  await page.keyboard.press('Shift+A');
  const chip = page.getByRole('button', { name: /^Select \d+ as played/ });
  if (chosen > 0) await expect(chip).toBeVisible();
  // A mark in the lane is dragged onto its line and is pinned there.
  const r = await roll(page);
  const first = byStart(played(5))[4];
  const x = r.at(first.start, 6 * 3840);
  let y = 0;
  for (y = r.laneTop + 30; y < r.y + r.height; y += 4) {
    await page.mouse.move(x, y);
    if (await page.locator('.tip').isVisible()) break;
  }
  await drag(page, [x, y], [x, y - 40]);
  await expect(page.getByRole('button', { name: /^Select \d+ pinned/ })).toBeVisible();
});
