import { chromium } from '@playwright/test';
import { writeWav } from '@early-sparrow/core/sound';
import { drumLoop, LOOP_RATE } from '../core/test/drum-loop';
const { samples } = drumLoop(0.625);
const loop = Buffer.from(writeWav(samples, samples, LOOP_RATE, 16));
const b = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--autoplay-policy=no-user-gesture-required'],
});
const page = await b.newPage({ viewport: { width: 1280, height: 800 } });
page.on('console', (m) => console.log('console', m.text()));
page.on('pageerror', (e) => console.log('error', e.message));
await page.addInitScript(() => {
  Reflect.deleteProperty(window, 'showOpenFilePicker');
});
await page.goto('http://localhost:4600/');
await page.waitForURL(/song/);
await page.getByText('typical miss', { exact: true }).waitFor({ timeout: 60000 });
await page.getByRole('list', { name: 'Tracks' }).getByRole('button', { name: 'Brush kit' }).first().click();
await page.keyboard.press('m');
const chooser = page.waitForEvent('filechooser');
await page.getByRole('button', { name: 'Bring in an audio file …' }).click();
await (await chooser).setFiles({ name: 'harbour loop.wav', mimeType: 'audio/wav', buffer: loop });
await page.getByText(/harbour loop: 4.00 s/).waitFor();
await page.screenshot({ path: '/tmp/s1.png' });
await page.getByRole('button', { name: 'Add as a track' }).click();
await page.keyboard.press('m');
await page.waitForTimeout(2500);
await page.screenshot({ path: '/tmp/s2.png' });
await page.getByRole('list', { name: 'Tracks' }).getByRole('button', { name: 'Brush kit' }).first().click();
await page.waitForTimeout(2500);
await page.screenshot({ path: '/tmp/s3.png' });
await b.close();
