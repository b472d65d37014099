import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Browser, type Page } from '@playwright/test';
import { chance } from './chance';
import { typeInto } from './hands';
import { painted } from './support';

/**
 * Kills the browser at random moments of a long session, opens it again, and looks for what was lost.
 * Run it with the server up: `npm run kill -- 60`. It prints a table, and fails where an edit that was called saved is
 * not there, or where a song does not open.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const kills = Number(process.argv[2] ?? 50);
const random = chance(Number(process.argv[3] ?? 1));

interface Running {
  readonly process: ChildProcess;
  readonly browser: Browser;
  readonly page: Page;
}

/** Starts a browser of its own on a profile, as a person would. */
async function start(profile: string): Promise<Running> {
  const portFile = join(profile, 'DevToolsActivePort');
  if (existsSync(portFile)) rmSync(portFile);
  const args = ['--headless=new', '--no-sandbox', '--disable-gpu', '--no-first-run', '--window-size=1280,800'];
  const browserProcess = spawn(
    process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    [...args, '--remote-debugging-port=0', `--user-data-dir=${profile}`, 'about:blank'],
    { detached: true, stdio: 'ignore' },
  );
  for (let i = 0; i < 200 && !existsSync(portFile); i++) await new Promise((done) => setTimeout(done, 50));
  const [port] = readFileSync(portFile, 'utf8').split('\n');
  const browser = await chromium.connectOverCDP(`http://127.0.0.1:${port}`);
  const [context] = browser.contexts();
  const page = context.pages()[0] ?? (await context.newPage());
  return { process: browserProcess, browser, page };
}

/** Ends every process of the browser at once, without a word. */
function kill(running: Running): void {
  const { pid } = running.process;
  if (pid !== undefined) process.kill(-pid, 'SIGKILL');
}

/** The strength that the song has: what the edits of the session set. */
async function strengthOf(page: Page): Promise<number> {
  return Number(await page.getByRole('slider', { name: 'Strength', exact: true }).inputValue());
}

async function openPanel(page: Page): Promise<void> {
  if ((await page.getByLabel('Strength, typed').count()) === 0) {
    await page
      .getByRole('button', { name: /^\d+ %$/ })
      .first()
      .click();
  }
  await page.getByLabel('Strength, typed').waitFor();
}

const profile = mkdtempSync(join(tmpdir(), 'early-sparrow-kill-'));
const counts = { edits: 0, saved: 0, lost: 0, more: 0, unopened: 0 };
let song = '';
/** Values of the strength in the order in which they were set; the last that was called saved, by its place in it. */
let values: number[] = [];
let savedAt = -1;

/** One stretch of work, until the kill. */
async function work(page: Page, dead: () => boolean): Promise<void> {
  while (!dead()) {
    const value = 1 + ((values.length * 7) % 98);
    values.push(value);
    await typeInto(page, page.getByLabel('Strength, typed'), `${value}`);
    await page.keyboard.press('Enter');
    counts.edits++;
    // Now and then a person looks up, at what is painted by then; now and then they go straight on.
    if (random() < 0.5) continue;
    await painted(page);
    for (let look = 1 + Math.floor(random() * 4); look > 0 && !dead(); look--) {
      if (await page.getByText('saved', { exact: true }).isVisible()) {
        savedAt = values.length - 1;
        counts.saved++;
        break;
      }
    }
  }
}

for (let round = 0; round <= kills; round++) {
  const running = await start(profile);
  const { page } = running;
  page.setDefaultTimeout(30_000);
  try {
    if (round === 0) {
      await page.goto(url);
      await page.waitForURL(/\/song\//);
      song = page.url();
    } else await page.goto(song);
    await page.getByRole('heading', { name: 'Night Ferry' }).waitFor();
    await openPanel(page);
    if (round > 0) {
      const found = values.lastIndexOf(await strengthOf(page));
      if (found < savedAt)
        console.error(
          `Round ${round}: saved ${savedAt}, found ${found} of ${values.length}: ${values.slice(-6).join()}`,
        );
      if (found < savedAt) counts.lost += savedAt - Math.max(found, -1);
      if (found > savedAt) counts.more += found - savedAt;
      values = values.slice(0, found + 1);
      savedAt = found;
    }
  } catch (error) {
    counts.unopened++;
    console.error(`Round ${round}: ${(error as Error).message.split('\n')[0]}`);
    kill(running);
    continue;
  }
  if (round === kills) {
    await running.browser.close();
    kill(running);
    break;
  }
  let isDead = false;
  const killing = new Promise<void>((done) =>
    setTimeout(
      () => {
        isDead = true;
        kill(running);
        done();
      },
      150 + random() * 2500,
    ),
  );
  // What a killed browser answers is of no interest.
  await Promise.all([killing, work(page, () => isDead).catch(() => undefined)]);
  await running.browser.close().catch(() => undefined);
}
rmSync(profile, { recursive: true });
console.log(`| what | count |
| --- | ---: |
| kills at random moments | ${kills} |
| edits made | ${counts.edits} |
| of these seen to be called saved before the kill | ${counts.saved} |
| **called saved and lost** | **${counts.lost}** |
| kept though nobody had seen them called saved | ${counts.more} |
| **songs that did not open** | **${counts.unopened}** |`);
process.exit(counts.lost + counts.unopened > 0 ? 1 : 0);
