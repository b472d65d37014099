import { createHash } from 'node:crypto';
import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer as reserve, type AddressInfo } from 'node:net';
import { join, resolve } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { choose } from './hands';
import { exportMidi, importFile, openSongs, readMidi } from './support';
import { lastStep } from './shaping';

test.use({ serviceWorkers: 'allow' });

/** Visits the page for the first time, and waits until it says that it needs no connection any more. */
async function firstVisit(page: Page): Promise<void> {
  await openSongs(page);
  await expect(page.getByText('Works without a connection.')).toBeVisible({ timeout: 90_000 });
}

/** What a page says against its security policy, and what breaks in it. */
function complaints(page: Page): string[] {
  const heard: string[] = [];
  page.on('console', (m) => /Content Security Policy/.test(m.text()) && heard.push(m.text()));
  page.on('pageerror', (e) => heard.push(e.message));
  return heard;
}

test('after the first visit everything works without the server: record, correct, export; the policy stays', async ({
  page,
  context,
}) => {
  await firstVisit(page);
  await context.setOffline(true);
  const heard = complaints(page);
  const visits = await Promise.all([page.reload(), page.waitForEvent('load')]);
  const policy = (await visits[0]?.allHeaders())?.['content-security-policy'] ?? '';
  await expect(page.getByRole('heading', { name: 'Songs' })).toBeVisible();
  // The same policy as the server's, with a nonce that is new each time.
  expect(policy).toContain("default-src 'none'");
  expect(policy).not.toContain('unsafe-inline');
  const nonce = /'nonce-([^']+)'/.exec(policy)?.[1] ?? '';
  expect(nonce.length).toBeGreaterThan(20);
  const again = await page.reload();
  const second = /'nonce-([^']+)'/.exec((await again?.allHeaders())?.['content-security-policy'] ?? '')?.[1];
  expect(second?.length).toBeGreaterThan(20);
  expect(second).not.toBe(nonce);
  // The demo comes without the server, too.
  await page.getByRole('button', { name: 'Open the demo song' }).click();
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await expect.poll(() => lastStep(page)).toBeTruthy();
  expect(readMidi(await exportMidi(page, 'corrected')).notes.length).toBeGreaterThan(1900);
  // A take is recorded by the practice player.
  await page.keyboard.press('i');
  await choose(page, 'Input device', 'Practice player');
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  await expect(page.locator('es-transport .place')).toHaveText(/^([3-9]|\d\d)\./, { timeout: 60_000 });
  await page.keyboard.press('Space');
  await expect(page.getByRole('list', { name: 'Tracks' }).getByRole('listitem')).toHaveCount(6);
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  expect(heard).toEqual([]);
  // An address of a song opens, too.
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
  await page.getByRole('link', { name: 'All songs' }).click();
  await importFile(page, 'app/public/demo/night-ferry.mid');
  await expect(page.getByRole('heading', { name: 'night-ferry' })).toBeVisible();
  await context.setOffline(false);
});

/** A server of its own, whose build can be replaced by a newer one. */
async function ownServer(folder: string): Promise<{ url: string; server: ChildProcess; app: string }> {
  mkdirSync(join(folder, 'dist'), { recursive: true });
  const app = join(folder, 'dist/app');
  cpSync('dist/app', app, { recursive: true });
  const port = await new Promise<number>((done) => {
    const free = reserve().listen(0, () => {
      const { port } = free.address() as AddressInfo;
      free.close(() => done(port));
    });
  });
  const main = resolve('dist/run/server/src/main.mjs');
  const server = spawn(process.execPath, [main], { cwd: folder, env: { ...process.env, PORT: String(port) } });
  await new Promise<void>((done) => server.stdout.on('data', () => done()));
  return { url: `http://localhost:${port}`, server, app };
}

test('a newer version is told, and opens once every step is saved', async ({ browser }, info) => {
  const { url, server, app } = await ownServer(info.outputPath('own'));
  const context = await browser.newContext({ baseURL: url, serviceWorkers: 'allow' });
  const page = await context.newPage();
  await firstVisit(page);
  // A newer build: another page, and a list that says so.
  const newer = readFileSync(join(app, 'page.html'), 'utf8').replace('</head>', '<meta name="newer" /></head>');
  writeFileSync(join(app, 'page.html'), newer);
  const list = JSON.parse(readFileSync(join(app, 'ngsw.json'), 'utf8'));
  list.hashTable['/page.html'] = createHash('sha1').update(newer).digest('hex');
  list.timestamp++;
  writeFileSync(join(app, 'ngsw.json'), JSON.stringify(list));
  server.kill();
  const main = resolve('dist/run/server/src/main.mjs');
  const { port } = new URL(url);
  const next = spawn(process.execPath, [main], { cwd: join(app, '../..'), env: { ...process.env, PORT: port } });
  await new Promise<void>((done) => next.stdout.on('data', () => done()));
  await openSongs(page);
  await expect(page.locator('meta[name=newer]')).toHaveCount(0);
  await page.getByRole('button', { name: 'Open the demo song' }).click();
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await expect(page.getByText('A new version is ready. It opens with your next visit.')).toBeVisible({
    timeout: 60_000,
  });
  await page.getByRole('button', { name: 'Reload now' }).click();
  await expect(page.locator('meta[name=newer]')).toHaveCount(1, { timeout: 30_000 });
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
  // The step is there.
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeEnabled();
  await context.close();
  next.kill();
});
