import { expect, test, type Page } from '@playwright/test';
import { boxOf, choose, drag, typeInto } from './hands';
import { lastStep, notesNow, openNotes, runCommand } from './shaping';
import { plainNote, roll } from './support';

/** Two bars of quarters from bar 1 on. */
const EIGHT = Array.from({ length: 8 }, (_, i) => plainNote(i, i * 960, 60 + i));
const BAR = 3840;

const strip = (page: Page) => page.getByRole('region', { name: 'Parts' });
const starts = async (page: Page) => (await notesNow(page)).map((n) => n.start);
const press = (page: Page, name: string) => strip(page).getByRole('button', { name, exact: true }).click();

interface SongView {
  readonly x: number;
  /** Middle of the first track's row. */
  readonly y: number;
  /** A place of a tick. */
  at(tick: number): number;
}

async function openSongView(page: Page, end: number): Promise<SongView> {
  await page.keyboard.press('Shift+o');
  await expect.poll(async () => (await boxOf(page.locator('es-overview'))).height).toBeGreaterThan(150);
  return seenSong(page, end);
}

/** Where ticks are: the first cursor that resizes is that of the last part's end. @param end its tick */
async function seenSong(page: Page, end: number): Promise<SongView> {
  const box = await boxOf(page.locator('es-overview'));
  const canvas = page.locator('es-overview .canvas');
  const y = box.y + 18 + 36;
  const isEnd = async (x: number) => {
    await page.mouse.move(x, y);
    return (await canvas.getAttribute('style'))?.includes('ew-resize') ?? false;
  };
  let x = box.x + box.width - 2;
  while (x > box.x && !(await isEnd(x))) x -= 3;
  // The edge is caught up to the part's last px.
  while (x < box.x + box.width && (await isEnd(x))) x += 1;
  return { x: box.x, y, at: (tick) => box.x + (tick / end) * (x - box.x) };
}

test('parts are dragged, copied, resized, cut, joined, moved and deleted in the song view and its strip', async ({
  page,
}) => {
  await test.step('parts are dragged, copied with Alt, resized at their end, and selected by a frame; Escape takes a drag back', async () => {
    await openNotes(page, 'Verse', EIGHT);
    const before = await starts(page);
    let view = await openSongView(page, 2 * BAR);
    await drag(page, [view.at(BAR), view.y], [view.at(3 * BAR), view.y]);
    await expect.poll(() => lastStep(page)).toBe('Move Verse');
    expect(await starts(page)).toEqual(before.map((s) => s + 2 * BAR));
    // The song is longer now: all of it is shown. A copy, right behind it.
    view = await seenSong(page, 4 * BAR);
    await page.keyboard.down('Alt');
    await drag(page, [view.at(3 * BAR), view.y], [view.at(5 * BAR), view.y]);
    await page.keyboard.up('Alt');
    expect(await starts(page)).toEqual([...before.map((s) => s + 2 * BAR), ...before.map((s) => s + 4 * BAR)]);
    // What lies in the way is not covered: it is said, and nothing is done.
    view = await seenSong(page, 6 * BAR);
    await drag(page, [view.at(5 * BAR), view.y], [view.at(4 * BAR), view.y]);
    await expect(page.getByText(/would lie on/)).toBeVisible();
    // Its end to the bar behind it; shorter than its notes it cannot be.
    await drag(page, [view.at(6 * BAR) - 2, view.y], [view.at(7 * BAR) - 2, view.y]);
    await expect.poll(() => lastStep(page)).toBe('Resize Verse');
    view = await seenSong(page, 7 * BAR);
    await drag(page, [view.at(7 * BAR) - 2, view.y], [view.at(5 * BAR) - 2, view.y]);
    await expect(page.getByText(/Cut it at that place first/)).toBeVisible();
    // A frame around both; they go back as one, up to the song's start.
    await drag(page, [view.at(BAR), view.y + 30], [view.at(6 * BAR), view.y - 20]);
    await page.keyboard.press('Shift+p');
    await expect(strip(page)).toContainText('2 parts');
    await page.mouse.move(view.at(3 * BAR), view.y);
    await page.mouse.down();
    await page.mouse.move(view.at(2 * BAR), view.y, { steps: 5 });
    await page.keyboard.press('Escape');
    await page.mouse.up();
    await expect.poll(() => lastStep(page)).toBe('Resize Verse');
    await drag(page, [view.at(3 * BAR), view.y], [view.at(BAR / 2), view.y]);
    await expect.poll(() => lastStep(page)).toBe('Move 2 parts');
    expect(await starts(page)).toEqual([...before, ...before.map((s) => s + 2 * BAR)]);
    await page.keyboard.press('Shift+p');
    await expect(strip(page)).toHaveCount(0);
    await page.keyboard.press('Shift+o');
  });

  await test.step('parts are cut, joined, named, muted, repeated, moved over what lies in the way, and deleted by strip and keys', async () => {
    // The downbeat of bar 2 was played early: it goes with its bar.
    await openNotes(
      page,
      'Verse',
      EIGHT.map((n) => (n.start === BAR ? { ...n, start: BAR - 20 } : n)),
    );
    const before = await starts(page);
    await page.keyboard.press('Shift+p');
    await press(page, 'Cut at the playhead');
    await expect(page.getByText(/Move the playhead into one/)).toBeVisible();
    const r = await roll(page);
    await page.mouse.click(r.at(BAR), r.barsY);
    await press(page, 'Cut at the playhead');
    await expect.poll(() => lastStep(page)).toBe('Cut Verse');
    // The half behind the cut is chosen: it is named, and moved a bar later.
    await typeInto(page, strip(page).getByLabel('Name of the part'), 'Answer');
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Name Verse');
    await runCommand(page, 'move the chosen parts a bar later');
    const apart = [...before.slice(0, 4), ...before.slice(4).map((s) => s + BAR)];
    expect(await starts(page)).toEqual(apart);
    await press(page, 'Mute');
    expect(await starts(page)).toEqual(before.slice(0, 4));
    await press(page, 'Unmute');
    await typeInto(page, strip(page).getByLabel('How many times'), '2');
    await press(page, 'Repeat');
    expect(await starts(page)).toHaveLength(16);
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await press(page, 'A bar earlier');
    await press(page, 'A bar earlier');
    await expect(page.getByText(/would lie on/)).toBeVisible();
    await choose(page, 'What lies in the way', 'is pushed behind');
    await press(page, 'A bar earlier');
    // Nothing can be early for bar 1: there it begins with the song.
    expect(await starts(page)).toEqual(EIGHT.map((n) => n.start));
    expect((await notesNow(page)).slice(0, 4).map((n) => n.pitch)).toEqual([64, 65, 66, 67]);
    await press(page, 'Join');
    await expect(page.getByText(/Choose two or more parts/)).toBeVisible();
    await press(page, 'Delete');
    expect((await notesNow(page)).map((n) => n.pitch)).toEqual([60, 61, 62, 63]);
    await page.keyboard.press('Shift+p');
    await expect(strip(page)).toHaveCount(0);
  });

  await test.step('an empty place pressed twice gets a part of a bar, and the edge of the song view is dragged and moved by keys', async () => {
    await openNotes(page, 'Verse', EIGHT);
    const edge = page.getByRole('separator', { name: 'Height of the song view' });
    const box = await boxOf(edge);
    await drag(page, [600, box.y + 4], [600, box.y + 150]);
    const height = async () => (await boxOf(page.locator('es-overview'))).height;
    expect(await height()).toBeGreaterThan(200);
    const taller = await height();
    await edge.press('ArrowUp');
    await expect.poll(height).toBe(taller - 24);
    await page.keyboard.press('Shift+o');
    await page.keyboard.press('Shift+o');
    await expect.poll(height).toBeLessThan(100);
    const view = await openSongView(page, 2 * BAR);
    await page.mouse.dblclick(view.at(2.5 * BAR), view.y);
    await expect.poll(() => lastStep(page)).toBe('Add Verse');
    await page.keyboard.press('Shift+p');
    await press(page, 'A bar later');
    await expect.poll(() => lastStep(page)).toBe('Move Verse');
    expect(await starts(page)).toHaveLength(8);
  });
});
