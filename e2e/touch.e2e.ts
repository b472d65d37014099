import { expect, test, type Locator, type Page } from '@playwright/test';
import { boxOf, type Place } from './hands';
import { lastStep, notesNow, openLanes, openNotes } from './shaping';
import { painted, plainNote } from './support';

test.use({ hasTouch: true });

const EIGHT = Array.from({ length: 8 }, (_, i) => ({ ...plainNote(i, i * 480, i % 2 ? 64 : 60), length: 400 }));

/** Fingers as the browser gets them from a screen. */
async function fingers(page: Page) {
  const client = await page.context().newCDPSession(page);
  const send = (type: 'touchStart' | 'touchMove' | 'touchEnd', places: readonly Place[]) =>
    client.send('Input.dispatchTouchEvent', { type, touchPoints: places.map(([x, y], id) => ({ x, y, id })) });
  return {
    send,
    /** All is sent at once: on a busy machine a finger whose moves are waited for one by one counts as staying. */
    async drag(from: Place, to: Place) {
      const along = (share: number): Place => [
        from[0] + (to[0] - from[0]) * share,
        from[1] + (to[1] - from[1]) * share,
      ];
      const moves = [1, 2, 3, 4, 5, 6].map((k) => [along(k / 6)]);
      const sent = [send('touchStart', [from]), ...moves.map((m) => send('touchMove', m)), send('touchEnd', [])];
      await Promise.all(sent);
    },
    /** Taps at these places, one right after the other. */
    async taps(...places: Place[]) {
      await Promise.all(places.flatMap((place) => [send('touchStart', [place]), send('touchEnd', [])]));
    },
  };
}

test('a finger moves notes, parts, marks and levels; two taps draw, a long press opens the verbs', async ({ page }) => {
  await test.step('a finger moves notes, two taps draw, a long press opens the verbs, two fingers move the picture', async () => {
    const r = await openNotes(page, 'Touch', EIGHT);
    const touch = await fingers(page);
    await page.mouse.move(...r.note(0, 60, 14));
    await expect(page.locator('.tip')).toContainText('bar 1 beat 1');
    const grip = r.note(480, 64, 14);
    await touch.drag(grip, [grip[0] + r.at(240) - r.at(0), grip[1]]);
    expect((await notesNow(page))[1]).toMatchObject({ start: 720, pitch: 64 });
    // Two taps in one place, which no finger hits twice to the px.
    const [x, y] = r.note(2400, 68);
    await touch.taps([x, y], [x + 5, y]);
    expect((await notesNow(page)).filter((n) => n.pitch === 68)).toHaveLength(1);
    // A finger that stays.
    await touch.send('touchStart', [r.note(1440, 64, 14)]);
    const strip = page.getByRole('toolbar', { name: 'At this place' });
    await expect(strip).toBeVisible();
    await touch.send('touchEnd', []);
    const erase = await boxOf(strip.getByRole('button', { name: 'Erase' }));
    await touch.taps([erase.x + 10, erase.y + 8]);
    expect(await notesNow(page)).toHaveLength(8);
    // Two fingers spread: what lies between them grows, and no note moves.
    const before = await notesNow(page);
    await touch.send('touchStart', [
      [r.at(960), r.y + 150],
      [r.at(1920), r.y + 150],
    ]);
    await touch.send('touchMove', [
      [r.at(480), r.y + 150],
      [r.at(2880), r.y + 150],
    ]);
    await touch.send('touchEnd', []);
    await painted(page);
    expect(await notesNow(page)).toEqual(before);
    // Where the first note was, it is no more.
    await page.mouse.move(...r.note(0, 60, 14));
    await expect(page.locator('.tip', { hasText: 'bar 1 beat 1' })).toHaveCount(0);
  });

  await test.step('a finger drags a part in the song view, two taps draw one, and a mark in the ruler is moved and edited', async () => {
    const BAR = 3840;
    const r = await openNotes(page, 'Touch', EIGHT);
    const touch = await fingers(page);
    const press = async (name: string) => {
      const box = await boxOf(page.getByRole('button', { name, exact: true }));
      await touch.taps([box.x + box.width / 2, box.y + box.height / 2]);
    };
    /** On a busy machine two taps may count as one, and a tap right after a drag as none: then they come again. */
    const until = (there: Locator, act: () => Promise<void>) =>
      expect(async () => {
        if (!(await there.isVisible())) await act();
        await expect(there).toBeVisible({ timeout: 1500 });
      }).toPass();
    // The marks: two taps on an empty place ask for a marker's name.
    await until(page.getByLabel('Name of the new marker'), async () => {
      await touch.taps([r.at(1920) + 3, r.y + 22], [r.at(1920) + 6, r.y + 22]);
    });
    await page.keyboard.type('Bridge');
    await page.keyboard.press('Enter');
    await expect.poll(() => lastStep(page)).toBe('Add a marker');
    await touch.drag([r.at(1920) + 12, r.y + 22], [r.at(2880) + 12, r.y + 22]);
    await expect.poll(() => lastStep(page)).toBe('Move a marker');
    // The song view is opened from the strip of parts.
    await until(page.getByRole('button', { name: 'Song view', exact: true }), () => press('Parts'));
    await press('Song view');
    const overview = page.locator('es-overview');
    await expect.poll(async () => (await boxOf(overview)).height).toBeGreaterThan(150);
    const box = await boxOf(overview);
    const y = box.y + 18 + 36;
    const before = (await notesNow(page)).map((n) => n.start);
    // Four bars are shown, and a little room behind: the part lies in the first.
    const bar = async () => {
      const { width } = await boxOf(overview);
      return width / 4.5;
    };
    const step = await bar();
    await touch.drag([box.x + step / 2, y], [box.x + step / 2 + 2 * step, y]);
    await expect.poll(() => lastStep(page)).toBe('Move Touch');
    const moved = (await notesNow(page)).map((n) => n.start);
    const by = moved[0] - before[0];
    expect(by).toBeGreaterThanOrEqual(BAR);
    expect(moved).toEqual(before.map((s) => s + by));
    await expect(async () => {
      await touch.taps([box.x + 20, y], [box.x + 22, y]);
      await expect.poll(() => lastStep(page), { timeout: 1500 }).toMatch(/^Add /);
    }).toPass();
    await press('Delete');
    await expect.poll(() => lastStep(page)).toMatch(/^Delete /);
    expect((await notesNow(page)).map((n) => n.start)).toEqual(moved);
  });

  await test.step('what the heads of lanes hold is large enough for a finger, and a finger drags the level', async () => {
    await openNotes(page, 'Lanes', EIGHT);
    const touch = await fingers(page);
    await openLanes(page, ['Velocity', 'Pitch bend']);
    const all = await page.locator('.lane-head').locator('button, select, .grip').all();
    expect(all.length).toBeGreaterThan(5);
    for (const one of all) {
      const { width, height } = await boxOf(one);
      expect(Math.min(width, height)).toBeGreaterThanOrEqual(24);
    }
    const before = (await notesNow(page)).map((n) => n.velocity);
    const level = await boxOf(page.locator('es-lane-amount .grip').first());
    await touch.drag([level.x + 6, level.y + level.height - 3], [level.x - 34, level.y + level.height - 3]);
    expect((await notesNow(page)).map((n) => n.velocity)).toEqual(before.map((v) => v - 20));
  });
});
