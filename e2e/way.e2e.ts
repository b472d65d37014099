import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { slide } from './hands';
import {
  exportMidi,
  importFile,
  midicsv,
  openDemo,
  OPENMSX,
  openSongs,
  readMidi,
  reload,
  selectTrack,
} from './support';

test('a hand-played file goes in, is pulled 80 % to sixteenths, and comes out with exactly that', async ({ page }) => {
  const path = join(OPENMSX, 'tttheme2.mid');
  await openSongs(page);
  await importFile(page, path);
  await expect(page.getByRole('heading', { name: 'tttheme2' })).toBeVisible();
  const name = await page.getByRole('heading', { level: 2 }).innerText();

  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await page.getByRole('radio', { name: 'sixteenth', exact: true }).click();
  await page.getByRole('radio', { name: 'straight' }).click();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await slide(page, 'Strength', 80);
  await expect(page.getByText(/notes move, typically/)).toBeVisible();

  const before = readMidi(readFileSync(path));
  const exported = await exportMidi(page, 'corrected');
  const after = readMidi(exported);
  const factor = after.ppq / before.ppq;
  const track = before.notes.find((n) => n.track > 0 || name)?.track;
  const step = after.ppq / 4;
  // The treated track is the first with notes; its starts keep a fifth of their offsets, all others stay.
  const key = (n: { track: number; pitch: number }) => `${n.track}.${n.pitch}`;
  const groups = (notes: typeof after.notes) => {
    const map = new Map<string, typeof after.notes>();
    for (const n of notes) map.set(key(n), [...(map.get(key(n)) ?? []), n]);
    return map;
  };
  const played = groups(before.notes);
  const now = groups(after.notes);
  expect([...now.keys()].sort()).toEqual([...played.keys()].sort());
  let moved = 0;
  for (const [k, notes] of played) {
    const others = now.get(k) ?? [];
    expect(others).toHaveLength(notes.length);
    notes.forEach((n, i) => {
      const start = n.start * factor;
      if (n.track !== track) {
        expect([others[i].start, others[i].end]).toEqual([start, n.end * factor]);
        return;
      }
      const line = Math.floor(start / step + 0.5) * step;
      expect(Math.abs(others[i].start - (line + (start - line) * 0.2))).toBeLessThanOrEqual(0.5);
      expect(others[i].velocity).toBe(n.velocity);
      if (others[i].start !== start) moved++;
    });
  }
  expect(moved).toBeGreaterThan(50);
  // Everything that is not a note is what it was.
  const scaled = midicsv(readFileSync(path), false).map((line) => {
    const cells = line.split(', ');
    if (cells[2] === 'Header') cells[5] = String(Number(cells[5]) * factor);
    else if (cells.length > 2 && cells[0] !== '0') cells[1] = String(Number(cells[1]) * factor);
    return cells.join(', ');
  });
  expect(midicsv(exported, false)).toEqual(scaled);
});

test('a treatment is there after a reload, undo still takes it back, and the file as played is what was opened', async ({
  page,
}) => {
  await openDemo(page);
  await test.step('a reload comes back to everything done, and undo still takes it back', async () => {
    await page.getByRole('switch', { name: 'Put starts on lines' }).click();
    await slide(page, 'Strength', 55);
    await expect(page.getByText('55 %', { exact: true })).toBeVisible();
    await expect(page.getByText('saved', { exact: true })).toBeVisible();
    await reload(page);
    await expect(page.getByText('55 %', { exact: true })).toBeVisible();
    await expect(page.getByRole('switch', { name: 'Put starts on lines' })).toBeChecked();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByText('100 %', { exact: true })).toBeVisible();
    await page.keyboard.press('Control+z');
    await expect(page.getByRole('switch', { name: 'Put starts on lines' })).not.toBeChecked();
    await page.keyboard.press('Control+Shift+z');
    await expect(page.getByRole('switch', { name: 'Put starts on lines' })).toBeChecked();
  });

  await test.step('the file as played is what was opened, whatever the treatment', async () => {
    const original = readMidi(readFileSync('app/public/demo/night-ferry.mid'));
    const played = readMidi(await exportMidi(page, 'as played'));
    expect(played.notes).toEqual(original.notes.map((n) => ({ ...n, start: n.start * 2, end: n.end * 2 })));
    const corrected = readMidi(await exportMidi(page, 'corrected'));
    expect(corrected.notes.filter((n) => n.track === 1).every((n) => n.start % 240 === 0)).toBe(true);
    await page.getByRole('switch', { name: 'Treatment of the part' }).click();
    expect(readMidi(await exportMidi(page, 'corrected')).notes).toEqual(played.notes);
  });
});

test('playing sounds, loops, switches sides at once and stops without a hanging note', async ({ page }) => {
  await openDemo(page);
  const loudness = async () => Number(await page.getByRole('meter').getAttribute('aria-valuenow'));
  const loop = page.getByRole('button', { name: /^Loop/ });
  await loop.click();
  await expect(loop).toHaveText(/bars 1–2/);
  await expect(loop).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('n');
  await page.keyboard.press('Space');
  await expect.poll(loudness, { timeout: 30_000 }).toBeGreaterThan(-50);
  await page.getByRole('radio', { name: 'As played' }).click();
  await expect(page.getByRole('radio', { name: 'As played' })).toBeChecked();
  await page.keyboard.down('Backslash');
  await expect(page.getByRole('radio', { name: 'Corrected' })).toBeChecked();
  await page.keyboard.up('Backslash');
  await expect(page.getByRole('radio', { name: 'As played' })).toBeChecked();
  await expect.poll(loudness, { timeout: 30_000 }).toBeGreaterThan(-50);
  // Two bars at 112 BPM last 4.3 s: the playhead is back in the first bar after that, and again.
  const bar = () => page.getByLabel('Bar, beat, sixteenth').innerText();
  for (let round = 0; round < 2; round++) {
    await expect.poll(bar, { timeout: 30_000, intervals: [100] }).toMatch(/^2\./);
    await expect.poll(bar, { timeout: 30_000, intervals: [100] }).toMatch(/^1\./);
  }
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  expect(await loudness()).toBe(-60);
});

test('no request leaves the machine, and the security policy holds without a complaint', async ({ page }) => {
  const outside: string[] = [];
  const complaints: string[] = [];
  page.on('request', (r) => {
    if (!/^(http:\/\/localhost|data:|blob:http:\/\/localhost)/.test(r.url())) outside.push(r.url());
  });
  page.on('console', (m) => m.type() === 'error' && complaints.push(m.text()));
  page.on('pageerror', (e) => complaints.push(e.message));
  const response = await page.goto('/');
  const policy = response?.headers()['content-security-policy'] ?? '';
  expect(policy).toContain("script-src 'self'");
  // The decoder of compressed sounds is WebAssembly; nothing else is evaluated.
  expect(policy.replace("'wasm-unsafe-eval'", '')).not.toMatch(/unsafe|\*|https?:/);
  await page.waitForURL(/\/song\//);
  await selectTrack(page, /Brush kit/);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect(page.getByLabel('Bar, beat, sixteenth')).not.toHaveText(/^1\.1\./);
  await page.getByRole('button', { name: 'Stop' }).click();
  await test.step('a loop that is set behind the playhead is gone to at once', async () => {
    const box = await page.locator('es-timing-view').boundingBox();
    if (!box) throw new Error('The roll is not there.');
    const bar = (box.width - 64) / 2.5;
    // A press in the ruler's numbers, in bar 2.
    await page.mouse.click(box.x + 76 + bar * 1.1, box.y + 39);
    await expect(page.getByLabel('Bar, beat, sixteenth')).toHaveText(/^2\./);
    await page.keyboard.press('Space');
    await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
    await page.mouse.move(box.x + 78, box.y + 7);
    await page.mouse.down();
    await page.mouse.move(box.x + 76 + bar, box.y + 7, { steps: 4 });
    await page.mouse.up();
    await expect(page.getByLabel('Bar, beat, sixteenth')).toHaveText(/^1\./, { timeout: 10_000 });
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop' }).click();
    await page.keyboard.press('Escape');
  });

  expect(outside).toEqual([]);
  expect(complaints).toEqual([]);
});

test('nothing outside the build folder can be fetched', async ({ request }) => {
  for (const path of ['/../package.json', '/%2e%2e/%2e%2e/package.json', '/.built', '/..%2fpackage.json']) {
    const response = await request.get(path);
    expect(await response.text()).not.toContain('early-sparrow"');
    expect(response.headers()['content-type']).not.toContain('json');
  }
  const page = await (await request.get('/')).text();
  const script = /src="(main-[^"]+)"/.exec(page)?.[1];
  const headers = (await request.get(`/${script}`)).headers();
  expect(headers['cache-control']).toContain('immutable');
  expect(headers['content-encoding']).toMatch(/gzip|br/);
});
