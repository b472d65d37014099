import { createHash } from 'node:crypto';
import { expect, test, type Page } from '@playwright/test';
import { choose, holdKey, slide, tabTo, typeAmount, typeInto } from './hands';
import { exportByKey, listened, openDemo, reload, selectTrack } from './support';

/** A control of the treatment, driven once by the pointer and once by the keys; both must be in the exported file. */
interface Driven {
  readonly name: string;
  readonly pointer: (page: Page) => Promise<void>;
  readonly keys: (page: Page) => Promise<void>;
}

/** A slider: dragged by its thumb; then reached by Tab, and a digit typed on it begins its field. */
const amount = (name: string, to: number, text: string): Driven => ({
  name,
  pointer: (page) => slide(page, name, to),
  keys: async (page) => {
    await tabTo(page, page.getByRole('slider', { name, exact: true }));
    await page.keyboard.press('ArrowRight');
    await page.keyboard.type(text);
    await page.keyboard.press('Enter');
  },
});
/** One of a row of buttons: pressed; then reached by Tab and the arrow keys. */
const row = (group: string, to: string, key: 'ArrowRight' | 'ArrowLeft' = 'ArrowRight'): Driven => ({
  name: `${group}: ${to}`,
  pointer: (page) =>
    page.getByRole('radiogroup', { name: group }).getByRole('radio', { name: to, exact: true }).click(),
  keys: async (page) => {
    await tabTo(page, page.getByRole('radiogroup', { name: group }).getByRole('radio', { checked: true }));
    await page.keyboard.press(key);
  },
});
/** A list that drops down: opened and pressed; then reached by Tab and stepped through. */
const list = (name: string, to: string, steps: number): Driven => ({
  name: `${name}: ${to}`,
  pointer: (page) => choose(page, name, to),
  keys: async (page) => {
    await tabTo(page, page.getByRole('combobox', { name, exact: true }));
    for (let i = 0; i < steps; i++) await page.keyboard.press('ArrowDown');
  },
});
/** A button or switch: pressed; then reached by Tab and pressed with a key. */
const press = (name: string | RegExp, role: 'button' | 'switch' = 'button', key = 'Space'): Driven => ({
  name: String(name),
  pointer: (page) => page.getByRole(role, { name }).first().click(),
  keys: async (page) => {
    await tabTo(page, page.getByRole(role, { name }).first());
    await page.keyboard.press(key);
  },
});

/** Drives each control from the same song, by pointer and by keys, and looks at the file each time. */
async function driveAll(page: Page, controls: readonly Driven[]): Promise<void> {
  const file = async () =>
    createHash('sha256')
      .update(await exportByKey(page))
      .digest('hex');
  const undo = page.getByRole('button', { name: 'Undo' });
  for (const { name, pointer, keys } of controls) {
    const before = await file();
    for (const [how, act] of [
      ['pointer', pointer],
      ['keys', keys],
    ] as const) {
      await test.step(`${name} by ${how}`, async () => {
        await act(page);
        await expect.poll(file, { message: `${name} by ${how} is in the file` }).not.toBe(before);
        // By its key, which leaves the focus where it is. Some take a step for each key: all of them go back.
        await expect(undo).toBeEnabled();
        await page.keyboard.press('Control+z');
        const takenBack = async () => {
          const now = await file();
          if (now !== before && (await undo.isEnabled())) await undo.click();
          return now;
        };
        await expect.poll(takenBack, { message: `${name} by ${how} is taken back`, intervals: [0] }).toBe(before);
      });
    }
  }
}

const quantizeOn = (page: Page) => page.getByRole('switch', { name: 'Put starts on lines' }).click();

test.describe('every control of the treatment is in the file, by pointer and by keys', () => {
  test.setTimeout(300_000);

  test('lag, push and the whole part; lifting a swing and a groove', async ({ page }) => {
    await openDemo(page);
    await test.step('lag, push and the whole part', async () => {
      await page.getByRole('button', { name: 'none removed', exact: true }).click();
      await page.getByRole('button', { name: 'push or pull' }).click();
      await driveAll(page, [amount('Lag', 20, '-12 ms'), amount('Earlier · later', -8, '30 t')]);
      await typeAmount(page, 'Lag', '24 ms');
      await driveAll(page, [
        press('Remove a steady lag', 'switch'),
        press('Put back: Remove a steady lag', 'button', 'Enter'),
        press('Treatment of the part', 'switch'),
      ]);
    });

    await test.step('lifting a swing and a groove', async () => {
      await listened(page);
      await quantizeOn(page);
      await page.getByRole('button', { name: '1/16', exact: true }).click();
      await choose(page, 'Lift from', 'Brush kit');
      await driveAll(page, [press('Lift the swing'), press('Lift a groove')]);
      await selectTrack(page, /Brush kit/);
      // The track itself is not among those to lift from any more: what is shown is what is lifted from.
      await expect(page.getByRole('combobox', { name: 'Lift from' })).toContainText('these notes');
    });
  });

  test('grids and grooves; lengths and velocities', async ({ page }) => {
    await openDemo(page);
    await test.step('grids and grooves', async () => {
      await quantizeOn(page);
      await page.getByRole('button', { name: '1/16', exact: true }).click();
      await driveAll(page, [
        row('Note value', 'eighth', 'ArrowLeft'),
        row('Shape', 'triplet'),
        list('Mixed with', '1/8T', 2),
        amount('Swing', 62.5, '55'),
        list('Groove', 'Late backbeat', 4),
      ]);
      await page.getByRole('radio', { name: 'n : m' }).click();
      await driveAll(page, [
        {
          name: 'Notes',
          pointer: async (p) => {
            await typeInto(p, p.getByRole('spinbutton', { name: 'Notes' }), '7');
            await p.keyboard.press('Enter');
          },
          keys: async (p) => {
            await tabTo(p, p.getByRole('spinbutton', { name: 'In the time of' }));
            await p.keyboard.press('ArrowUp');
          },
        },
      ]);
      await page.getByRole('radio', { name: 'straight' }).click();
      await choose(page, 'Groove', 'Late backbeat');
      await driveAll(page, [amount('Timing of the groove', 40, '120'), amount('Loudness of the groove', 20, '55')]);
    });

    await test.step('lengths and velocities', async () => {
      await selectTrack(page, /Upright bass/);
      await page.getByRole('button', { name: 'Keep lengths' }).click();
      await page.getByRole('button', { name: 'as played', exact: true }).click();
      await driveAll(page, [row('Ends', 'legato'), amount('Contrast', 40, '150'), amount('Level', -20, '+10')]);
      await slide(page, 'Contrast', 40);
      await driveAll(page, [press('Velocities', 'switch')]);
      await page.getByRole('radio', { name: 'legato' }).click();
      await driveAll(page, [
        amount('Gap', 20, '30 t'),
        amount('Strength of the ends', 30, '80'),
        press('Lengths', 'switch'),
      ]);
      await quantizeOn(page);
      await page.getByRole('radiogroup', { name: 'Ends' }).getByRole('radio', { name: 'keep' }).click();
      await driveAll(page, [row('When a start moves', 'end stays')]);
    });
  });

  test('humanize; how far and which notes', async ({ page }) => {
    await openDemo(page);
    await test.step('humanize', async () => {
      await page.getByRole('switch', { name: 'Humanize' }).click();
      await page.getByRole('button', { name: '6 ms', exact: true }).click();
      await driveAll(page, [
        row('Shape', 'even'),
        row('Lean', 'late'),
        amount('Starts', 20, '11 ms'),
        amount('Lengths', 30, '50'),
        amount('Velocities', 20, '35'),
        press('Reroll'),
      ]);
      await selectTrack(page, /Electric piano/);
      await page.getByRole('switch', { name: 'Humanize' }).click();
      await driveAll(page, [amount('Chords together', 0, '100')]);
    });

    await test.step('how far and which notes', async () => {
      await selectTrack(page, /Electric piano/);
      await quantizeOn(page);
      await page.getByRole('button', { name: '100 %' }).click();
      await driveAll(page, [
        amount('Strength', 60, '35 %'),
        amount('Tolerance', 25, '1/64'),
        amount('Reach', 30, '20 ms'),
        amount('Chord spread kept', 70, '100'),
        row('Which notes', 'early only', 'ArrowLeft'),
      ]);
      await slide(page, 'Strength', 50);
      await driveAll(page, [row('How often', '2 times')]);
    });
  });
});

test('amounts and levels: taken back on their way, refused, held, live while they move', async ({ page }) => {
  await openDemo(page);
  await test.step('a slider’s thumb can be taken and taken back: Escape leaves what was', async () => {
    const strength = page.getByRole('slider', { name: 'Strength' });
    const sentence = page.locator('es-quantize-stage .sentence');
    const box = await strength.boundingBox();
    if (!box) throw new Error('The slider is not there.');
    const y = box.y + box.height / 2;
    await page.mouse.move(box.x + box.width - 21, y);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2, y, { steps: 5 });
    await expect(sentence).toContainText(/\b(49|50|51) % of the way/);
    await page.keyboard.press('Escape');
    await expect(sentence).toContainText('100 % of the way');
    await page.mouse.move(box.x + box.width / 3, y, { steps: 3 });
    await page.mouse.up();
    await expect(sentence).toContainText('100 % of the way');
    await expect(strength).toHaveValue('100');
    await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
  });

  await test.step('amounts that cannot be read or are out of range are told of, and change nothing', async () => {
    await typeAmount(page, 'Tolerance', 'soon');
    await expect(page.getByRole('alert')).toHaveText('Write a time such as 12 ms, 1/64, 30 t or 40 %.');
    await typeAmount(page, 'Strength', '150 %');
    await expect(page.getByText('Write a number from 0 % to 100 %.')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
    await typeAmount(page, 'Tolerance', '40 %');
    await expect(page.locator('es-quantize-stage .sentence')).toContainText(
      'Leave what is within 40 % of half the gap',
    );
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
  });

  await test.step('a key that is held in an amount’s field counts each time, however quick, and is one step', async () => {
    await quantizeOn(page);
    const strength = page.getByRole('slider', { name: 'Strength', exact: true });
    const was = Number(await strength.inputValue());
    await page.getByLabel('Strength, typed', { exact: true }).click();
    await holdKey(page, 'ArrowDown', 12);
    await expect(strength).toHaveValue(String(was - 12));
    await expect(page.getByLabel('Strength, typed', { exact: true })).toHaveValue(`${was - 12} %`);
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(strength).toHaveValue(String(was));
  });

  await test.step('mute, solo and level of a track are set by pointer and by keys, live while the level moves', async () => {
    for (const name of ['Mute Upright bass', 'Solo Brush kit']) {
      const button = page.getByRole('button', { name });
      await button.click();
      await expect(button).toHaveAttribute('aria-pressed', 'true');
      await tabTo(page, button);
      await page.keyboard.press('Space');
      await expect(button).toHaveAttribute('aria-pressed', 'false');
    }
    const level = page.getByRole('slider', { name: 'Level of Clarinet' });
    const box = await level.boundingBox();
    if (!box) throw new Error('The level is not there.');
    await page.mouse.move(box.x + box.width * 0.8 - 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.3, box.y + box.height / 2, { steps: 5 });
    await page.mouse.up();
    await expect.poll(async () => Number(await level.inputValue())).toBeLessThan(45);
    const dragged = Number(await level.inputValue());
    await tabTo(page, level);
    await page.keyboard.press('ArrowRight');
    await expect(level).toHaveValue(String(dragged + 1));
    await page.keyboard.press('Home');
    await expect(level).toHaveValue('0');
    await reload(page);
    await expect(level).toHaveValue('0');
  });
});
