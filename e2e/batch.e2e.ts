import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import { choose, dropFiles, typeInto } from './hands';
import { OPENMSX, openSongs, withoutFileWindows } from './support';
import { withFolderWindow, filesIn } from './files';

const DEMO = 'app/public/demo/night-ferry.mid';
const PLANET = '/usr/share/planetblupi/music';

/** A folder of copies under the test's own. */
function folderOf(path: string, files: Record<string, string | Buffer>): string {
  mkdirSync(path, { recursive: true });
  for (const [name, from] of Object.entries(files)) {
    if (typeof from === 'string') copyFileSync(from, join(path, name));
    else writeFileSync(join(path, name), from);
  }
  return path;
}

async function openBatch(page: Page): Promise<void> {
  await openSongs(page);
  await page.getByRole('link', { name: 'Many files' }).click();
  await expect(page.getByText('Drop MIDI files or folders here.')).toBeVisible();
}

const row = (page: Page, name: string) => page.getByRole('listitem').filter({ hasText: name });
const summary = (page: Page, text: string | RegExp) =>
  expect(page.getByRole('region', { name: 'Files' }).getByRole('status').first()).toHaveText(text, {
    timeout: 150_000,
  });

async function zipped(page: Page): Promise<Record<string, Uint8Array>> {
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save all as a zip file' }).click();
  return unzipSync(readFileSync(await (await download).path()));
}

/** The same files by the command line. */
function byCommandLine(out: string, files: readonly string[], ...flags: string[]): Record<string, Buffer> {
  execFileSync(process.execPath, ['tools/timing.mjs', 'correct', ...files, ...flags, '--out', out], { stdio: 'pipe' });
  return Object.fromEntries(readdirSync(out).map((name) => [name, readFileSync(join(out, name))]));
}

test('the real files come out as by the command line, byte for byte', async ({ page }, info) => {
  await openBatch(page);
  const names = [OPENMSX, PLANET].flatMap((folder) =>
    readdirSync(folder).flatMap((name) => (/\.mid$/.test(name) ? [join(folder, name)] : [])),
  );
  expect(names.length).toBeGreaterThan(38);
  await choose(page, 'Correct by', 'lines of your choice');
  await typeInto(page, page.getByLabel('Lines', { exact: true }), '1/16+1/8T');
  await page.keyboard.press('Enter');
  await choose(page, 'Strength', '80 % of the way');
  await dropFiles(page, [OPENMSX, PLANET]);
  await summary(page, new RegExp(`^${names.length} files`));
  const { 'Report.csv': csv, 'Report.json': json, ...files } = await zipped(page);
  const line = byCommandLine(info.outputPath('line'), names, '--grid', '1/16+1/8T', '--strength', '80%');
  expect(Object.keys(files).sort()).toEqual(Object.keys(line).sort());
  for (const [name, bytes] of Object.entries(line)) expect(Buffer.from(files[name]).equals(bytes), name).toBe(true);
  expect(Buffer.from(csv).toString().trim().split('\r\n').length).toBeGreaterThan(names.length);
  expect(JSON.parse(Buffer.from(json).toString()).files).toHaveLength(names.length);
});

test('what fits each is found as by the command line; the doubtful come first, and one fault stops nothing', async ({
  page,
}, info) => {
  await openBatch(page);
  const theme = join(OPENMSX, 'tttheme2.mid');
  const folder = folderOf(info.outputPath('takes'), {
    'broken.mid': Buffer.from('MThd nonsense'),
    'demo.mid': DEMO,
    'letter.txt': Buffer.from('Dear Jo'),
    'theme.mid': theme,
  });
  await dropFiles(page, [folder]);
  await summary(page, '3 files, 2 to look at, 1 could not be corrected');
  await expect(page.getByRole('listitem')).toContainText(['broken.mid', 'theme.mid', 'demo.mid']);
  await expect(row(page, 'broken.mid')).toContainText('The file ends inside its header.');
  await expect(row(page, 'theme.mid')).toContainText('drifting: ');
  const files = await zipped(page);
  const inputs = [join(folder, 'demo.mid'), join(folder, 'theme.mid')];
  const line = byCommandLine(info.outputPath('line'), inputs, '--grid', 'auto', '--lag', 'auto');
  for (const [name, bytes] of Object.entries(line)) expect(Buffer.from(files[name]).equals(bytes), name).toBe(true);
  expect(Buffer.from(files['Report.csv']).toString()).toContain('broken.mid');
});

test('a file is heard before and after, and opened as a song with its treatment on it', async ({ page }, info) => {
  await openBatch(page);
  await dropFiles(page, [folderOf(info.outputPath('takes'), { 'Ferry.mid': DEMO })]);
  await summary(page, 'One file, 1 to look at');
  // Its clarinet mixes sixteenths and triplets with wild notes: that is not sure.
  await expect(row(page, 'Ferry.mid')).toContainText('not sure: Clarinet');
  const button = (name: string) => row(page, 'Ferry.mid').getByRole('button', { name });
  await button('As played').click();
  await expect(button('As played')).toHaveAttribute('aria-pressed', 'true');
  await button('Corrected').click();
  await expect(button('Corrected')).toHaveAttribute('aria-pressed', 'true');
  await button('Corrected').click();
  await expect(button('Corrected')).toHaveAttribute('aria-pressed', 'false');
  const [bytes] = Object.values(await zipped(page));
  await button('Open').click();
  await page.waitForURL(/\/song\//);
  await expect(page.getByRole('heading', { name: 'Ferry' })).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  await page.getByRole('menuitem', { name: 'MIDI file, corrected' }).click();
  expect(readFileSync(await (await download).path()).equals(Buffer.from(bytes))).toBe(true);
});

test('files are written into a folder, and none that is there is replaced', async ({ page }, info) => {
  await withFolderWindow(page, 'takes', { 'Ferry.mid': 'an old take' });
  await openBatch(page);
  await dropFiles(page, [folderOf(info.outputPath('takes'), { 'Ferry.mid': DEMO, 'Second.mid': DEMO })]);
  await summary(page, '2 files, 2 to look at');
  await page.getByRole('button', { name: 'Write into a folder' }).click();
  await expect(page.getByText('4 files were written into “takes”, the report among them.')).toBeVisible();
  const files = await filesIn(page, 'takes');
  expect(Object.keys(files).sort()).toEqual(['Ferry (2).mid', 'Ferry.mid', 'Report.csv', 'Report.json', 'Second.mid']);
  expect(files['Ferry.mid'].toString()).toBe('an old take');
  expect(files['Ferry (2).mid'].equals(files['Second.mid'])).toBe(true);
});

test('the work is cancelled and gone on with; lines that are none are refused in a sentence', async ({
  page,
}, info) => {
  await withoutFileWindows(page);
  await openBatch(page);
  const takes = Object.fromEntries(Array.from({ length: 12 }, (_, i) => [`Take ${i + 1}.mid`, DEMO]));
  await dropFiles(page, [folderOf(info.outputPath('takes'), takes)]);
  await page.getByRole('button', { name: 'Cancel' }).click();
  await summary(page, /^12 files, \d+ not corrected yet$/);
  await page.getByRole('button', { name: 'Go on' }).click();
  await summary(page, '12 files, 12 to look at');
  await choose(page, 'Correct by', 'lines of your choice');
  await summary(page, '12 files');
  await typeInto(page, page.getByLabel('Lines', { exact: true }), '1/17');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/“1\/17” is not a grid/)).toBeVisible();
  await summary(page, '12 files');
  await page.getByRole('button', { name: 'Clear' }).click();
  await expect(page.getByText('Drop MIDI files or folders here.')).toBeVisible();
});
