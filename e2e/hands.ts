import { expect, type Locator, type Page } from '@playwright/test';
import { painted } from './support';

/** A place on the page in px. */
export type Place = readonly [number, number];

/** Presses, moves and lets go with the real pointer. */
export async function drag(page: Page, from: Place, to: Place, on: { button?: 'left' | 'right' } = {}): Promise<void> {
  await carry(page, from, to, on);
  await page.mouse.up(on);
}

/** The same without letting go yet. */
export async function carry(page: Page, from: Place, to: Place, on: { button?: 'left' | 'right' } = {}): Promise<void> {
  await page.mouse.move(...from);
  await page.mouse.down(on);
  await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2, { steps: 3 });
  await page.mouse.move(...to, { steps: 3 });
}

/** Presses twice in one place and holds the second press. Neither waits for the page's answer, which may come late when it is busy. */
export async function pressTwice(page: Page, [x, y]: Place): Promise<void> {
  await Promise.all([page.mouse.click(x, y), page.mouse.down()]);
}

export async function boxOf(locator: Locator): Promise<{ x: number; y: number; width: number; height: number }> {
  const box = await locator.boundingBox();
  if (!box) throw new Error(`${locator} is not to be seen`);
  return box;
}

const slider = (page: Page, label: string) => page.getByRole('slider', { name: label, exact: true });

/** Where on the page a slider stands for a value. */
export async function placeOn(page: Page, label: string, value: number): Promise<Place> {
  const input = slider(page, label);
  await input.scrollIntoViewIfNeeded();
  const track = await boxOf(page.locator('mat-slider').filter({ has: input }).locator('.mdc-slider__track'));
  const [min, max] = [Number(await input.getAttribute('min')), Number(await input.getAttribute('max'))];
  return [track.x + (track.width * (value - min)) / (max - min), track.y + track.height / 2];
}

/** Takes a slider by its thumb, drags it to a value, and lets go; the last half step by an arrow key if need be. */
export async function slide(page: Page, label: string, value: number): Promise<void> {
  const input = slider(page, label);
  await input.scrollIntoViewIfNeeded();
  const before = await input.inputValue();
  // A message that comes over the desk moves everything down: who misses the thumb for that takes it again.
  for (let i = 0; i < 3 && (await input.inputValue()) === before && Number(before) !== value; i++) {
    await drag(page, await placeOn(page, label, Number(before)), await placeOn(page, label, value));
  }
  for (let i = 0; i < 4; i++) {
    const now = Number(await input.inputValue());
    if (Math.abs(now - value) < 1e-6) break;
    await page.keyboard.press(now < value ? 'ArrowRight' : 'ArrowLeft');
  }
  await expect(input).toHaveValue(String(value));
}

/** Types an amount into its field and presses Enter. */
export async function typeAmount(page: Page, label: string, text: string): Promise<void> {
  await page.getByLabel(`${label}, typed`, { exact: true }).click();
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
}

/** Replaces what stands in a field by typing. */
export async function typeInto(page: Page, field: Locator, text: string): Promise<void> {
  await field.click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type(text);
}

/** Holds a key until it has counted so often; it repeats more quickly than the screen shows anything. */
export async function holdKey(page: Page, key: string, times: number): Promise<void> {
  await Promise.all(Array.from({ length: times }, () => page.keyboard.down(key)));
  await page.keyboard.up(key);
}

/** Opens a list and presses one of its options. */
export async function choose(page: Page, label: string, option: string | RegExp): Promise<void> {
  await page.getByRole('combobox', { name: label, exact: true }).click();
  await page.getByRole('option', { name: option, exact: typeof option === 'string' }).click();
  await uncovered(page);
}

/** Until a menu or list has closed: what lies behind it takes presses for a moment longer than it is seen. */
export async function uncovered(page: Page): Promise<void> {
  await expect(page.getByRole('menu')).toHaveCount(0);
  await expect(page.getByRole('listbox')).toHaveCount(0);
  await expect(page.locator('.cdk-overlay-backdrop')).toHaveCount(0);
}

/** Goes to a control with the Tab key alone; first one back, since who comes to it often comes from it. */
export async function tabTo(page: Page, control: Locator, most = 160): Promise<void> {
  const here = control.and(page.locator(':focus'));
  await page.keyboard.press('Shift+Tab');
  for (let i = 0; i < most; i++) {
    await page.keyboard.press('Tab');
    if ((await here.count()) > 0) return;
  }
  throw new Error(`Tab does not reach ${control}`);
}

const veil = (page: Page) => page.getByText(/Drop MIDI files, song files or folders to open them/);

/** Drags files or folders from outside over the window. @returns what lets them go */
export async function dragFilesOver(page: Page, paths: readonly string[]): Promise<() => Promise<void>> {
  // It comes a moment after the first page.
  await expect(page.locator('es-drop-zone')).toBeAttached();
  const client = await page.context().newCDPSession(page);
  const data = { items: [], files: [...paths], dragOperationsMask: 1 };
  const send = (type: 'dragEnter' | 'dragOver' | 'drop') =>
    client.send('Input.dispatchDragEvent', { type, x: 400, y: 400, data });
  await send('dragEnter');
  await send('dragOver');
  // The page says that it takes them before they are let go, as a person would see.
  await expect(veil(page)).toBeVisible();
  return async () => {
    await send('dragOver');
    await send('drop');
  };
}

/** Drops files or folders onto the window. */
export async function dropFiles(page: Page, paths: readonly string[]): Promise<void> {
  // The browser cancels a drop that comes before the page's answer: then the files are dragged again.
  for (let taken = false, tries = 0; !taken && tries < 3; tries++) {
    const drop = await dragFilesOver(page, paths);
    const arrives = page
      .waitForFunction(() => new Promise((done) => addEventListener('drop', () => done(true), { once: true })), null, {
        timeout: 5000,
      })
      .then(
        () => true,
        () => false,
      );
    await painted(page);
    await drop();
    taken = await arrives;
  }
  await expect(veil(page)).toHaveCount(0);
}
