import { expect, test, type Page } from '@playwright/test';
import { emptyFrames, paints } from './frames';
import { boxOf, drag, slide, typeInto } from './hands';
import { laneOf, openLanes } from './shaping';
import { listened, openDemo, painted, selectTrack } from './support';

/** The picture once it holds still. */
async function stillPicture(page: Page): Promise<Buffer> {
  const view = page.locator('es-timing-view');
  // What is no canvas has slanted and round edges that may differ by a shade.
  const mask = [view.locator('.playhead'), view.locator('.lane-head')];
  let before = await view.screenshot({ mask });
  await expect
    .poll(async () => {
      await painted(page);
      const now = await view.screenshot({ mask });
      const same = now.equals(before);
      before = now;
      return same;
    })
    .toBe(true);
  return before;
}

/** Whether the picture is what it is when all of it is painted anew: a canvas is empty once it has another size. */
async function expectAsPaintedAnew(page: Page, after: string): Promise<void> {
  // Beside the picture, where nothing is under the pointer.
  await page.mouse.move(640, 20);
  const shown = await stillPicture(page);
  await page.setViewportSize({ width: 1280, height: 820 });
  await expect.poll(async () => (await boxOf(page.locator('es-timing-view'))).height).toBeGreaterThan(590);
  await painted(page);
  await page.setViewportSize({ width: 1280, height: 800 });
  await expect
    .poll(async () => (await stillPicture(page)).equals(shown), { message: `as painted anew, after ${after}` })
    .toBe(true);
}

test('what is painted in parts looks as if all of it were painted anew', async ({ page }) => {
  await openDemo(page);
  await listened(page);
  await page.getByRole('button', { name: 'Hide', exact: true }).click();
  await openLanes(page, ['Velocity', 'Length']);
  await expectAsPaintedAnew(page, 'lanes were opened');

  // A sweep of velocities: the velocity lane changes, the offsets do not.
  const before = await stillPicture(page);
  const box = await boxOf(page.locator('es-timing-view'));
  await page.mouse.move(box.x + 90, box.y + 100);
  await page.keyboard.down('r');
  for (let i = 0; i < 24; i++) await page.mouse.move(box.x + 90 + i * 24, box.y + (i % 2 ? 80 : 215), { steps: 6 });
  await page.keyboard.up('r');
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled();
  await expectAsPaintedAnew(page, 'a sweep');
  expect((await stillPicture(page)).equals(before)).toBe(false);

  await slide(page, 'Strength', 60);
  await expectAsPaintedAnew(page, 'a change of strength');
  await slide(page, 'Tolerance', 12);
  await expectAsPaintedAnew(page, 'a change of tolerance');

  await page.locator('es-timing-view .canvas').click({ position: { x: 300, y: 60 } });
  await page.keyboard.press('Control+a');
  await typeInto(page, page.getByRole('textbox', { name: 'Level', exact: true }), '12');
  await page.keyboard.press('Enter');
  await expectAsPaintedAnew(page, 'a level over all');
  await page.getByRole('radio', { name: 'As played' }).click();
  await expectAsPaintedAnew(page, 'the take was shown');
  await page.keyboard.press('Control+z');
  await expectAsPaintedAnew(page, 'undo');

  // Lanes that lie elsewhere, and one less.
  const { top } = await laneOf(page, 'Level');
  await drag(page, [600, top], [600, top - 31]);
  await expectAsPaintedAnew(page, 'a lane was dragged taller');
  await page.getByRole('button', { name: /^Fold the lane Length/ }).click();
  await expectAsPaintedAnew(page, 'a lane was folded');
  await page.getByRole('button', { name: 'Dusk', exact: true }).click();
  await selectTrack(page, /Brush kit/);
  await expectAsPaintedAnew(page, 'another track in the dark');
});

/** Goes to and fro over the notes with a key held, and counts the paintings of grid, notes and lanes. */
async function paintsOfSweep(page: Page, key: string): Promise<readonly number[]> {
  const box = await boxOf(page.locator('es-timing-view'));
  await page.mouse.move(box.x + 90, box.y + 100);
  await painted(page);
  const counts = await paints(page, async () => {
    await page.keyboard.down(key);
    for (let i = 0; i < 24; i++) await page.mouse.move(box.x + 90 + i * 24, box.y + (i % 2 ? 80 : 215), { steps: 6 });
    await page.keyboard.up(key);
  });
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled();
  return counts;
}

test('only what has changed is painted anew, and no frame is empty', async ({ page }) => {
  await openDemo(page);
  await listened(page);
  await test.step('a strip that opens and closes leaves no frame of the picture empty', async () => {
    const rules = page.locator('es-rule-strip');
    const { empty, all } = await emptyFrames(page, async () => {
      for (let i = 0; i < 3; i++) {
        await page.keyboard.press('Shift+U');
        await expect(rules).toBeVisible();
        await painted(page);
        await page.keyboard.press('Shift+U');
        await expect(rules).toBeHidden();
        await painted(page);
      }
    });
    expect(all).toBeGreaterThan(10);
    expect(empty).toBe(0);
  });

  await test.step('a sweep of lengths paints the notes anew, and neither the grid nor the offsets', async () => {
    const [grid, notes, lanes] = await paintsOfSweep(page, 'w');
    expect(notes).toBeGreaterThan(10);
    // A few when the sweep begins and ends; every step paints the notes.
    expect(Math.max(grid, lanes)).toBeLessThanOrEqual(3);
    await page.keyboard.press('Control+z');
  });

  await test.step('a sweep of velocities paints their lane anew, and neither the grid nor the notes', async () => {
    await openLanes(page, ['Velocity']);
    const [grid, notes, lanes] = await paintsOfSweep(page, 'r');
    expect(lanes).toBeGreaterThan(10);
    expect(Math.max(grid, notes)).toBeLessThanOrEqual(3);
  });
});
