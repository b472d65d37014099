import { mkdirSync, writeFileSync } from 'node:fs';
import { chromium, type Page } from '@playwright/test';
import { chance } from './chance';
import { typeInto } from './hands';
import { exportByKey, importFile, openDemo, OPENMSX, openSongs, painted, reload, withoutFileWindows } from './support';

/**
 * Presses keys and buttons, types amounts, drags, sweeps and scrolls at random on the desk, then undoes all of it, does it
 * again, and reloads. The seed says which song it is, how large the window is, and whether a second tab looks on. Run it
 * with the server up: `npm run restless -- ROUNDS SEED ACTS`. It fails where a page reports an error, where undo, redo or
 * a reload leave another song than they should, to the byte of its file, or where the second tab has another song; it
 * prints what was done.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const rounds = Number(process.argv[2] ?? 10);
const firstSeed = Number(process.argv[3] ?? 1);
const acts = Number(process.argv[4] ?? 80);

const SIZES = [
  { width: 1280, height: 800 },
  { width: 1024, height: 700 },
  { width: 1680, height: 1000 },
];
const FILE = 'coconut_run2';

const PLAIN = [...'abcdefghijklmnopqrstuvwxyz1234567890,.+-?[]/', 'Enter', 'Escape', 'Tab', ' ', 'F2'];
const MOVING = ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Home', 'End', 'PageUp', 'PageDown', 'Delete'];
const KEYS = [...PLAIN, ...MOVING];
/** With Control, what the desk knows: the others are the browser's own. */
const CONTROL = ['a', 'c', 'x', 'v', 'z', 'y', 'd', 'ArrowLeft', 'ArrowRight', 'Shift+z', 'Shift+v'];
/** Keys that act on all that the pointer sweeps while they are down. */
const SWEEPING = [...'xacwsrf'];
const AMOUNTS = ['0', '1', '37', '100', '-1', '999999', '0.5', '12 ms', '1/16', 'much', '66.7'];
/** Buttons that lead away from the song or open a window of the browser. */
const LEADS_AWAY = /songs|export|open|import|delete the song|save|print|full|take over|guide|connect|back up/i;

/** One session on the desk, by a seed. */
class Session {
  readonly done: string[] = [];
  private readonly random: () => number;

  constructor(
    private readonly page: Page,
    seed: number,
  ) {
    this.random = chance(seed);
  }

  async act(): Promise<void> {
    const kind = this.random();
    if (kind < 0.35) await this.key();
    else if (kind < 0.6) await this.pointer();
    else if (kind < 0.7) await this.sweep();
    else if (kind < 0.75) await this.scroll();
    else if (kind < 0.85) await this.amount();
    else await this.button();
  }

  private below(n: number): number {
    return Math.floor(this.random() * n);
  }

  private pick<T>(from: readonly T[]): T {
    return from[this.below(from.length)];
  }

  /** Mostly in the picture. */
  private place(): [number, number] {
    const { width, height } = this.page.viewportSize()!;
    return this.random() < 0.8
      ? [250 + this.below(width - 600), 130 + this.below(height - 240)]
      : [this.below(width), 40 + this.below(height - 40)];
  }

  private async key(): Promise<void> {
    const modifier = this.pick(['', '', '', '', 'Shift+', 'Shift+', 'Alt+', 'Control+']);
    const key = modifier + this.pick(modifier === 'Control+' ? CONTROL : KEYS);
    this.done.push(`key ${key}`);
    await this.page.keyboard.press(key);
  }

  private async pointer(): Promise<void> {
    const { mouse, keyboard } = this.page;
    const [x, y] = this.place();
    const near = this.random() < 0.5;
    const [u, v] = near ? [x + this.below(160) - 80, y + this.below(60) - 30] : this.place();
    const held = this.pick(['', '', '', 'Alt', 'Shift', 'Control']);
    const way = this.pick(['click', 'double', 'right', 'drag', 'drag', 'drag', 'drag and Escape']);
    this.done.push(`${held} ${way} ${x},${y} → ${u},${v}`);
    if (held) await keyboard.down(held);
    if (way === 'click') await mouse.click(x, y);
    else if (way === 'double') await mouse.dblclick(x, y);
    else if (way === 'right') await mouse.click(x, y, { button: 'right' });
    else {
      await mouse.move(x, y);
      await mouse.down();
      await mouse.move(u, v, { steps: 4 });
      if (way !== 'drag') await keyboard.press('Escape');
      await mouse.up();
    }
    if (held) await keyboard.up(held);
  }

  private async sweep(): Promise<void> {
    const key = this.pick(SWEEPING);
    const [x, y] = this.place();
    const [u, v] = this.place();
    this.done.push(`hold ${key} ${x},${y} → ${u},${v}`);
    await this.page.mouse.move(x, y);
    await this.page.keyboard.down(key);
    await this.page.mouse.move(u, v, { steps: 5 });
    await this.page.keyboard.up(key);
  }

  private async scroll(): Promise<void> {
    const held = this.random() < 0.3;
    const [dx, dy] = [this.below(800) - 400, this.below(800) - 400];
    this.done.push(`wheel ${dx},${dy}${held ? ' with Control' : ''}`);
    await this.page.mouse.move(...this.place());
    if (held) await this.page.keyboard.down('Control');
    await this.page.mouse.wheel(dx, dy);
    if (held) await this.page.keyboard.up('Control');
  }

  private async amount(): Promise<void> {
    const fields = await this.page.locator('input:not([type=range]):not([type=file]):visible').all();
    if (fields.length === 0) return;
    const field = this.pick(fields);
    const value = this.pick(AMOUNTS);
    this.done.push(`type ${value} into ${await field.getAttribute('aria-label').catch(() => 'what is gone')}`);
    await typeInto(this.page, field, value).then(
      () => this.page.keyboard.press('Enter'),
      () => undefined,
    );
  }

  private async button(): Promise<void> {
    const buttons = await this.page.locator('button:visible, [role=menuitem]:visible').all();
    if (buttons.length === 0) return;
    const button = this.pick(buttons);
    const words = await Promise.all([
      button.getAttribute('aria-label'),
      button.getAttribute('title'),
      button.textContent(),
    ]).catch(() => ['']);
    const name = words.join(' ').replace(/\s+/g, ' ').trim();
    if (LEADS_AWAY.test(name)) return;
    this.done.push(`press ${name}`);
    await button.click().catch(() => undefined);
  }
}

/** Lets go of everything, closes what is open and stops: what is being recorded is no step yet. */
async function atRest(page: Page): Promise<void> {
  for (const key of ['Shift', 'Alt', 'Control']) await page.keyboard.up(key);
  await page.mouse.up();
  for (let i = 0; i < 5; i++) await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await painted(page);
}

/** Presses a button as long as it can be pressed, or so often; @returns how often */
async function pressed(page: Page, name: 'Undo' | 'Redo', most = Infinity): Promise<number> {
  const button = page.getByRole('button', { name, exact: true });
  let steps = 0;
  for (; steps < most && (await button.isEnabled()); steps++) {
    await button.click();
    await painted(page);
  }
  return steps;
}

function tellErrors(page: Page, errors: string[]): void {
  page.on('pageerror', (e) => errors.push(e.stack ?? e.message));
  page.on('console', (m) => m.type() === 'error' && errors.push(m.text()));
  page.on('dialog', (d) => void d.dismiss());
}

/** Opens the same song once more. */
async function secondTab(page: Page, errors: string[]): Promise<Page> {
  const reader = await page.context().newPage();
  tellErrors(reader, errors);
  await withoutFileWindows(reader);
  await reader.goto(page.url());
  return reader;
}

async function run(page: Page, seed: number): Promise<string[]> {
  const errors: string[] = [];
  tellErrors(page, errors);
  const session = new Session(page, seed);
  let steps = 0;
  const isDemo = seed % 2 === 0;
  const heading = page.getByRole('heading', { name: isDemo ? 'Night Ferry' : FILE });
  try {
    if (isDemo) await openDemo(page);
    else {
      await openSongs(page);
      await importFile(page, `${OPENMSX}/${FILE}.mid`);
    }
    await heading.waitFor();
    const song = page.url();
    const reader = seed % 4 < 2 ? null : await secondTab(page, errors);
    await page.bringToFront();
    const before = await exportByKey(page);
    // What went away or is covered is not waited for.
    page.setDefaultTimeout(2000);
    for (let i = 0; i < acts && errors.length === 0; i++) {
      await session.act();
      if (page.url() === song) continue;
      session.done.push(`led to ${page.url()}; back to the song`);
      await page.goto(song);
      await heading.waitFor();
    }
    page.setDefaultTimeout(20_000);
    await atRest(page);
    const after = await exportByKey(page);
    const same = async (as: Buffer, when: string, tab = page) => {
      const now = await exportByKey(tab);
      if (now.equals(as)) return;
      errors.push(`${when} it is another song: test-results/restless-${seed}-*.mid`);
      mkdirSync('test-results', { recursive: true });
      writeFileSync(`test-results/restless-${seed}-then.mid`, as);
      writeFileSync(`test-results/restless-${seed}-now.mid`, now);
    };
    steps = await pressed(page, 'Undo');
    await same(before, 'After undoing all');
    // What had been undone before stays so.
    await pressed(page, 'Redo', steps);
    await same(after, 'After doing all again');
    await reload(page);
    await heading.waitFor();
    await same(after, 'After a reload');
    if (reader) {
      await reader.bringToFront();
      await painted(reader);
      await same(after, 'In a second tab', reader);
    }
  } catch (error) {
    errors.push((error as Error).message.split('\n').slice(0, 3).join(' '));
  }
  console.log(`Seed ${seed}: ${session.done.length} acts, ${steps} steps${errors.length === 0 ? ', fine' : ''}`);
  if (errors.length > 0) console.log(`${session.done.join('\n')}\nFAULT: ${errors.join('\n')}`);
  return errors;
}

const executablePath = process.env['CHROMIUM'] ?? '/usr/bin/chromium';
const browser = await chromium.launch({ executablePath, args: ['--no-sandbox'] });
let faults = 0;
for (let round = 0; round < rounds; round++) {
  const seed = firstSeed + round;
  const context = await browser.newContext({
    baseURL: url,
    viewport: SIZES[seed % SIZES.length],
    serviceWorkers: 'block',
  });
  const page = await context.newPage();
  if ((await run(page, seed)).length > 0) {
    faults++;
    await page.screenshot({ path: `test-results/restless-${seed}.png` });
  }
  await context.close();
}
await browser.close();
console.log(`${rounds} rounds, ${faults} with a fault`);
if (faults > 0) process.exitCode = 1;
