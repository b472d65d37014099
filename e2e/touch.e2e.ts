import { expect, test, type Page } from '@playwright/test';
import { boxOf, type Place } from './hands';
import { lastStep, notesNow, openNotes } from './shaping';
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
    async drag(from: Place, to: Place) {
      await send('touchStart', [from]);
      for (let k = 1; k <= 6; k++) {
        const share = k / 6;
        await send('touchMove', [[from[0] + (to[0] - from[0]) * share, from[1] + (to[1] - from[1]) * share]]);
      }
      await send('touchEnd', []);
    },
  };
}

test('a finger moves notes, two taps draw, a long press opens the verbs, two fingers move the picture', async ({
  page,
}) => {
  const r = await openNotes(page, 'Touch', EIGHT);
  const touch = await fingers(page);
  await page.mouse.move(...r.note(0, 60, 14));
  await expect(page.locator('.tip')).toContainText('bar 1 beat 1');
  const grip = r.note(480, 64, 14);
  // On a busy machine a finger may count as staying before its first move comes: then it begins again.
  for (let i = 0; i < 3 && (await lastStep(page)) === 'Nothing to undo'; i++) {
    await page.keyboard.press('Escape');
    await touch.drag(grip, [grip[0] + r.at(240) - r.at(0), grip[1]]);
  }
  expect((await notesNow(page))[1]).toMatchObject({ start: 720, pitch: 64 });
  // Two taps in one place, which no finger hits twice to the px.
  const [x, y] = r.note(2400, 68);
  for (const dx of [0, 5]) {
    await touch.send('touchStart', [[x + dx, y]]);
    await touch.send('touchEnd', []);
  }
  expect((await notesNow(page)).filter((n) => n.pitch === 68)).toHaveLength(1);
  // A finger that stays.
  await touch.send('touchStart', [r.note(1440, 64, 14)]);
  const strip = page.getByRole('toolbar', { name: 'At this place' });
  await expect(strip).toBeVisible();
  await touch.send('touchEnd', []);
  const erase = await boxOf(strip.getByRole('button', { name: 'Erase' }));
  await touch.send('touchStart', [[erase.x + 10, erase.y + 8]]);
  await touch.send('touchEnd', []);
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
