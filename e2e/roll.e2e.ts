import { expect, test, type Page } from '@playwright/test';
import { choose, drag, typeAmount } from './hands';
import { lastStep } from './shaping';
import {
  byStart,
  exported,
  exportMidi,
  listened,
  openDemo,
  painted,
  played,
  readMidi,
  roll,
  selectTrack,
} from './support';

const quantize = (page: Page) => page.getByRole('switch', { name: 'Put starts on lines' });

test('a swing is lifted from another track, and dragged by an off-beat’s handle in the ruler', async ({ page }) => {
  await openDemo(page);
  await test.step('a swing that is lifted from another track is that of its sixteenths: eighths stay where they are', async () => {
    await selectTrack(page, /Electric piano/);
    await page.keyboard.press('8');
    await page.getByRole('button', { name: '1/8', exact: true }).click();
    await choose(page, 'Lift from', 'Brush kit');
    await page.getByRole('button', { name: 'Lift the swing' }).click();
    await expect.poll(() => lastStep(page)).toMatch(/^Lift swing 6[123]\.\d % of 1\/16, Electric piano$/);
    await expect(page.getByRole('button', { name: '1/16', exact: true })).toBeVisible();
    const starts = (await exported(page, 4)).map((n) => n.start);
    expect(starts.length).toBeGreaterThan(400);
    expect(starts.filter((start) => start % 480 !== 0)).toEqual([]);
  });

  await test.step('an off-beat’s handle can be dragged in the ruler, and the swing becomes that', async () => {
    await selectTrack(page, /Brush kit/);
    const r = await roll(page);
    await drag(page, [r.at(240), r.swingY], [r.at(300), r.swingY]);
    await expect(page.getByText(/lines swung 62\.5\s%/)).toBeVisible();
    await expect(quantize(page)).not.toBeChecked();
    await listened(page);
    await page.getByRole('button', { name: 'Lift the swing' }).click();
    await expect(page.getByText(/lines swung 62(\.\d)?\s%/)).toBeVisible();
    await page.getByRole('button', { name: 'Lift a groove' }).click();
    await expect(page.getByText(/the lines of\s+Lifted from Brush kit/)).toBeVisible();
    await expect(page.getByRole('combobox', { name: 'Groove' })).toContainText('Lifted from Brush kit');
  });
});

test('loops are drawn, dragged and taken away, and never touch the swing', async ({ page }) => {
  await openDemo(page);
  await test.step('the loop’s button does what its words say, and a press beside the loop takes its range away', async () => {
    const loop = page.getByRole('button', { name: /^Loop/ });
    await loop.click();
    await expect(loop).toHaveText(/bars 1–2/);
    await expect(loop).toHaveAttribute('aria-pressed', 'true');
    await loop.click();
    await expect(loop).toHaveAttribute('aria-pressed', 'false');
    const r = await roll(page);
    // Its edge is dragged a bar further, then the whole of it is moved by a bar.
    await loop.click();
    await drag(page, [r.at(7680), r.loopY], [r.at(3840), r.loopY]);
    await expect(loop).toHaveText(/bar 1$/);
    await drag(page, [r.at(1920), r.loopY], [r.at(1920 + 3840), r.loopY]);
    await expect(loop).toHaveText(/bar 2$/);
    await page.mouse.click(r.at(1920), r.loopY);
    await expect(loop).toHaveText('Loop');
    await expect(loop).toHaveAttribute('aria-pressed', 'false');
  });

  await test.step('loops drawn from anywhere, beside off-beat lines too, never touch the swing', async () => {
    const r = await roll(page);
    const text = page.getByRole('button', { name: /^Loop/ });
    for (let i = 0; i < 12; i++) {
      const from = r.at(240 + i * 120) + (i % 5) - 2;
      await page.keyboard.press('Escape');
      await drag(page, [from, r.loopY], [from + 180 + 7 * i, r.loopY]);
      await expect(text).toHaveAttribute('aria-pressed', 'true');
      await expect(page.getByText(/lines swung/)).toHaveCount(0);
      // Drawn again: the one before goes first.
      await page.keyboard.press('l');
      await drag(page, [r.at(9300), r.loopY], [r.at(9400), r.loopY]);
    }
    await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
  });
});

test('bands and marks of the offset lane can be dragged, and Escape takes a drag back', async ({ page }) => {
  await openDemo(page);
  await page
    .locator('es-timing-view')
    .getByRole('button', { name: /throughout\. Remove/ })
    .click();
  await expect(page.getByText(/\d ms of rush\./)).toBeVisible();
  await expect(page.locator('es-timing-view').getByRole('button', { name: /throughout/ })).toHaveCount(0);
  await typeAmount(page, 'Tolerance', '6 ms');
  const r = await roll(page);
  const room = r.y + r.height - r.laneTop - 22;
  const middle = r.laneTop + 22 + room / 2;
  const perMs = (room / 2 - 11) / 30;
  await drag(page, [r.x + 600, middle + 6 * perMs], [r.x + 600, middle + 12 * perMs]);
  await expect(page.getByRole('button', { name: '12 ms', exact: true })).toBeVisible();
  await page.mouse.move(r.x + 600, middle + 12 * perMs);
  await page.mouse.down();
  await page.mouse.move(r.x + 600, middle + 20 * perMs, { steps: 4 });
  await expect(page.getByRole('button', { name: '20 ms', exact: true })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: '12 ms', exact: true })).toBeVisible();
  await page.mouse.up();
  await expect(page.getByRole('button', { name: '12 ms', exact: true })).toBeVisible();
});

/** Finds something under the pointer by its tip, going down from a place. */
async function findBelow(page: Page, x: number, from: number, to: number): Promise<number> {
  for (let y = from; y < to; y += 4) {
    await page.mouse.move(x, y);
    if (await page.locator('.tip').isVisible()) return y;
  }
  throw new Error('Nothing is there.');
}

test('a note that is dragged follows, snaps to the drawn lines, and a right press moves nothing', async ({ page }) => {
  await openDemo(page);
  const r = await roll(page);
  const [, second] = byStart(played(1));
  const x = r.at(second.start) + 4;
  const y = await findBelow(page, x, r.top + 2, r.laneTop);
  const to = x + r.at(480) - r.at(second.start);
  await drag(page, [x, y], [to, y], { button: 'right' });
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
  // While it is held it is shown, and told in three units; Escape takes it back.
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(to, y, { steps: 5 });
  await expect(page.locator('.tip')).toContainText(/ms later/);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
  await drag(page, [x, y], [to, y]);
  // No stage is on, so that nothing has to be pinned.
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', 'Move one note');
  const moved = (await exported(page, 1)).filter((n) => n.start === 480);
  expect(moved.map((n) => n.pitch)).toContain(second.pitch);
  await page.keyboard.press('Control+z');
  // Up by three rows: the pitch changes, and nothing is pinned.
  const rowOf = await findBelow(page, x, r.top + 2, r.laneTop);
  const height = 20;
  await drag(page, [x, rowOf + 2], [x + 1, rowOf + 2 - 3 * height]);
  await expect(page.getByRole('button', { name: /pinned/ })).toHaveCount(0);
  const now = byStart(await exported(page, 1));
  expect(now.filter((n) => n.start === second.start)[0].pitch).toBeGreaterThan(second.pitch);
});

test('a mark in the lane takes its chord along, down its scale of ms', async ({ page }) => {
  await openDemo(page);
  await selectTrack(page, /Electric piano/);
  const r = await roll(page);
  const x = r.at(24 * 1.792);
  const y = await findBelow(page, x, r.laneTop + 60, r.y + r.height);
  await drag(page, [x, y], [x, y - 30]);
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', 'Move 4 notes');
  const first = byStart(await exported(page, 4)).slice(0, 4);
  const before = byStart(played(4)).slice(0, 4);
  first.forEach((n, i) => expect(n.start).toBeLessThan(before[i].start));
});

test('a key that is held plays the notes under the pointer; the wheel, Ctrl and Alt move the picture', async ({
  page,
}) => {
  await openDemo(page);
  await test.step('a key that is held plays the notes under the pointer; letting go and Escape end them', async () => {
    await page.keyboard.press('m');
    await choose(page, 'Output', 'Simulated synthesizer');
    // The newest message is the first.
    const message = page.getByRole('list', { name: 'Messages received' }).getByRole('listitem').first();
    const r = await roll(page);
    const [, second] = byStart(played(1));
    const x = r.at(second.start) + 4;
    const y = await findBelow(page, x, r.top + 2, r.laneTop);
    await page.keyboard.down('z');
    await expect(message).toHaveText(/^on [A-G]/);
    await page.keyboard.up('z');
    await expect(message).toHaveText(/^off [A-G]/);
    // Beside the notes nothing sounds until the pointer comes to one.
    await page.mouse.move(x - 60, y);
    await expect(page.locator('.tip')).toBeHidden();
    await page.keyboard.down('z');
    await page.mouse.move(x, y, { steps: 8 });
    await expect(message).toHaveText(/^on [A-G]/);
    await page.keyboard.press('Escape');
    await expect(message).toHaveText(/^off [A-G]/);
    await page.keyboard.up('z');
    // Nothing of that is a step, and Escape was the verb's alone: the strip is open still.
    await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeEnabled();
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
    await expect(page.getByRole('list', { name: 'Messages received' })).toHaveCount(0);
    await page.mouse.move(5, 5);
    await page.keyboard.press('z');
    await expect(page.getByText('Point at a note in the picture, then hold the key.')).toBeVisible();
  });

  await test.step('the wheel scrolls and with Ctrl zooms; Alt and a drag, or the middle button, move the picture', async () => {
    const r = await roll(page);
    /** The bars at both edges of the picture, told by where a press in the ruler sends the playhead. */
    const edges = async () => {
      const bars: number[] = [];
      for (const x of [r.x + 84, r.x + r.width - 4]) {
        await page.mouse.click(x, r.barsY);
        await painted(page);
        const place = await page.getByLabel('Bar, beat, sixteenth').innerText();
        bars.push(Number(place.split('.')[0]));
      }
      return bars;
    };
    const bar = (r.width - 64) / 2.5;
    expect(await edges()).toEqual([1, 3]);
    await page.mouse.move(r.x + r.width / 2, r.y + 160);
    await page.mouse.wheel(bar * 4, 0);
    await expect.poll(edges).toEqual([5, 7]);
    await page.mouse.move(r.x + r.width / 2, r.y + 160);
    await page.keyboard.down('Control');
    for (let i = 0; i < 6; i++) await page.mouse.wheel(0, 120);
    await page.keyboard.up('Control');
    await expect.poll(async () => (await edges())[1]).toBeGreaterThan(9);
    await page.keyboard.press('v');
    await expect.poll(async () => (await edges())[1]).toBeGreaterThan(30);
    await page.mouse.move(r.x + 66, r.y + 160);
    await page.keyboard.down('Control');
    for (let i = 0; i < 12; i++) await page.mouse.wheel(0, -120);
    await page.keyboard.up('Control');
    await expect.poll(async () => (await edges())[1]).toBeLessThan(5);
    await page.mouse.move(r.x + 66, r.y + 160);
    await page.mouse.wheel(bar * 8, 0);
    const [before] = await edges();
    await page.keyboard.down('Alt');
    await drag(page, [r.x + 100, r.y + 200], [r.x + 600, r.y + 200]);
    await page.keyboard.up('Alt');
    expect((await edges())[0]).toBeLessThan(before);
    await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
  });
});

test('in As played a dragged note lands where it is dropped, and the take stays', async ({ page }) => {
  await openDemo(page);
  await quantize(page).click();
  await page.getByRole('radio', { name: 'As played' }).click();
  const r = await roll(page);
  const [, second] = byStart(played(1));
  const x = r.at(second.start) + 4;
  const y = await findBelow(page, x, r.top + 2, r.laneTop);
  await page.mouse.move(x, y);
  await page.keyboard.down('Control');
  await drag(page, [x, y], [x + 30, y]);
  await page.keyboard.up('Control');
  await expect(page.getByRole('radio', { name: 'Corrected' })).toBeChecked();
  const perTick = (r.at(960) - r.at(0)) / 960;
  const dropped = (await exported(page, 1)).find((n) => Math.abs(n.start - second.start - 30 / perTick) < 2);
  expect(dropped?.pitch).toBe(second.pitch);
  const take = readMidi(await exportMidi(page, 'as played')).notes.filter((n) => n.track === 1);
  expect(byStart(take)).toEqual(byStart(played(1)));
});
