import { chromium } from '@playwright/test';
import { writeFileSync } from 'node:fs';
import { importFile, openSongs } from './support';
import { longTake } from './long-take';
const what = process.argv[2] ?? 'note';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const page = await browser.newPage({ baseURL: 'http://localhost:4601', viewport: { width: 1280, height: 800 } });
await openSongs(page);
await importFile(page, { name: 'long.mid', mimeType: 'audio/midi', buffer: longTake(27000) });
await page.locator('es-timing-view canvas').first().waitFor({ timeout: 120_000 });
await page.waitForTimeout(3000);
const box = (await page.locator('es-timing-view').boundingBox())!;
const cdp = await page.context().newCDPSession(page);
await cdp.send('Profiler.enable');
await cdp.send('Profiler.setSamplingInterval', { interval: 400 });
const cursorOf = () => page.locator('es-timing-view .canvas').evaluate((e) => (e as HTMLElement).style.cursor);
if (what === 'note') {
  let at: [number, number] | null = null;
  for (let y = box.y + 50; !at && y < box.y + 250; y += 5) for (let x = box.x + 120; !at && x < box.x + 600; x += 4) { await page.mouse.move(x, y); if ((await cursorOf()) === 'move') at = [x, y]; }
  await page.mouse.move(...at!);
  await page.mouse.down();
  await page.mouse.move(at![0] + 10, at![1]);
  await cdp.send('Profiler.start');
  for (let i = 0; i < 60; i++) await page.mouse.move(at![0] + 10 + (i % 30) * 2, at![1]);
} else if (what === 'sweep') {
  await page.keyboard.press('v');
  await page.waitForTimeout(300);
  await page.mouse.move(box.x + 80, box.y + 60);
  await page.keyboard.down('r');
  await cdp.send('Profiler.start');
  for (let i = 0; i < 120; i++) await page.mouse.move(box.x + 80 + i * 2.6, box.y + 190 + Math.sin(i / 3) * 130);
} else {
  await page.keyboard.press('v');
  await page.getByRole('button', { name: 'lanes', exact: true }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Velocity' }).click();
  await page.keyboard.press('Escape');
  await page.mouse.click(box.x + 300, box.y + 60);
  await page.keyboard.press('Control+a');
  const level = (await page.locator('es-lane-amount .grip').first().boundingBox())!;
  await page.mouse.move(level.x + 6, level.y + 8);
  await page.mouse.down();
  await page.mouse.move(level.x + 10, level.y + 8);
  await cdp.send('Profiler.start');
  for (let i = 0; i < 60; i++) await page.mouse.move(level.x + 10 + (i % 20) * 2, level.y + 8);
}
const { profile } = await cdp.send('Profiler.stop');
writeFileSync('/tmp/prof.json', JSON.stringify(profile));
await browser.close();
