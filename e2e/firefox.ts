import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import puppeteer, { type Browser, type ElementHandle, type KeyInput, type Page } from 'puppeteer-core';

// Debian's Firefox over WebDriver BiDi, without a sound device: with PulseAudio's null sink it plays, but in one of
// three starts its audio process and PulseAudio's client wait for each other for ever.

/** How long anything is waited for, in ms: a busy machine is slow and not wrong. */
const PATIENCE = 60_000;

/** Firefox, the page that is open, and what it has complained of. */
export class Firefox {
  readonly complaints: string[] = [];
  private constructor(
    private readonly folder: string,
    private readonly browser: Browser,
    readonly page: Page,
  ) {
    page.setDefaultTimeout(PATIENCE);
    page.on('pageerror', (error) => this.complaints.push(String(error)));
    page.on('console', (message) => {
      if (message.type() === 'error') this.complaints.push(message.text());
    });
  }

  static async start(): Promise<Firefox> {
    const folder = mkdtempSync(join(tmpdir(), 'early-sparrow-firefox-'));
    const browser = await puppeteer.launch({
      browser: 'firefox',
      executablePath: process.env['FIREFOX'] ?? '/usr/bin/firefox-esr',
      env: { ...process.env, HOME: folder, PULSE_SERVER: `unix:${join(folder, 'no-device')}` },
      // Downloads go to the folder unasked; no first words, no asking for updates.
      extraPrefsFirefox: {
        'browser.download.folderList': 2,
        'browser.download.dir': folder,
        'browser.download.useDownloadDir': true,
        'browser.download.always_ask_before_handling_new_types': false,
        'app.update.enabled': false,
      },
    });
    // The window's own page: another one may come up behind it, and what is behind paints no frames.
    const [page] = await browser.pages();
    await page.evaluateOnNewDocument(openFileWindow);
    await page.setViewport({ width: 1280, height: 800 });
    return new Firefox(folder, browser, page);
  }

  async end(): Promise<void> {
    await this.browser.close();
    rmSync(this.folder, { recursive: true });
  }

  /**
   * Presses what is labelled or called so. (Firefox finds by role and name too, but holds the page for up to 20 s while
   * it does.)
   */
  async press(name: string): Promise<void> {
    const is = `@aria-label="${name}" or normalize-space()="${name}"`;
    await this.page.locator(`::-p-xpath(//*[self::button or self::a or @role="option"][${is}])`).click();
  }

  /** Presses keys together. */
  async keys(...keys: KeyInput[]): Promise<void> {
    for (const key of keys) await this.page.keyboard.down(key);
    for (const key of keys.reverse()) await this.page.keyboard.up(key);
  }

  /** The words of what a selector finds, as they are shown. */
  async words(selector: string): Promise<string> {
    return this.page.$eval(selector, (e) => (e as HTMLElement).innerText);
  }

  async shows(selector: string, words: RegExp): Promise<void> {
    await until(`${selector} with ${words}`, async () => words.test(await this.words(selector).catch(() => '')));
  }

  /** Takes a slider by its thumb, drags it to a share of its track and lets go. */
  async slide(name: string, share: number): Promise<void> {
    const input = await this.page.waitForSelector(`mat-slider input[aria-label="${name}"]`);
    const track = await this.page.$(`mat-slider:has(input[aria-label="${name}"]) .mdc-slider__track`);
    const box = await track?.boundingBox();
    if (!input || !box) throw new Error(`${name} is not to be seen`);
    const [min, max, value] = await input.evaluate((e) => [e.min, e.max, e.value].map(Number));
    const y = box.y + box.height / 2;
    const { mouse } = this.page;
    await mouse.move(box.x + (box.width * (value - min)) / (max - min), y);
    await mouse.down();
    await mouse.move(box.x + box.width * (share + 0.1), y, { steps: 3 });
    await mouse.move(box.x + box.width * share, y, { steps: 3 });
    await mouse.up();
  }

  /** Chooses a file in the window that a press opens. */
  async choose(path: string, press: () => Promise<void>): Promise<void> {
    await press();
    const input = await this.page.waitForSelector('input[type=file]');
    await (input as ElementHandle<HTMLInputElement>).uploadFile(resolve(path));
  }

  /** What a press puts into the folder of downloads. */
  async download(press: () => Promise<void>): Promise<Buffer> {
    const before = new Set(readdirSync(this.folder));
    await press();
    const fresh = () => readdirSync(this.folder).filter((f) => !before.has(f) && /\.midi?$/.test(f));
    // While it is written, the rest of it stands beside it.
    const whole = () => !readdirSync(this.folder).some((f) => f.endsWith('.part'));
    await until('a download', async () => fresh().length > 0 && whole());
    return readFileSync(join(this.folder, fresh()[0]));
  }
}

/** In the page: stands in for the browser's own file window, which only the system could press. */
function openFileWindow(): void {
  HTMLInputElement.prototype.showPicker = function (this: HTMLInputElement): void {
    document.body.append(this);
  };
}

/** Waits until something is so. */
export async function until(what: string, so: () => Promise<boolean>): Promise<void> {
  const end = Date.now() + PATIENCE;
  while (!(await so())) {
    if (Date.now() > end) throw new Error(`Waited for ${what} in vain.`);
    await new Promise((done) => setTimeout(done, 50));
  }
}
