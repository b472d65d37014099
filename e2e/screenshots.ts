import { chromium, type Page } from '@playwright/test';
import { openDemo, selectTrack } from './support';

// Takes the pictures of docs/screenshots from the demo song: `npm run screenshots` with the server up.
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const folder = 'docs/screenshots';

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });

async function scene(
  name: string,
  act: (page: Page) => Promise<void>,
  size = { width: 1280, height: 800 },
): Promise<void> {
  const context = await browser.newContext({ baseURL: url, viewport: size, reducedMotion: 'reduce' });
  const page = await context.newPage();
  await openDemo(page);
  await act(page);
  await page.mouse.move(size.width / 2, size.height - 5);
  await page.waitForTimeout(400);
  await page.screenshot({ path: `${folder}/${name}.png` });
  await context.close();
}

const quantize = async (page: Page) => {
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  await page.getByRole('slider', { name: 'Strength' }).fill('80');
  await page.getByRole('button', { name: '1/16', exact: true }).click();
};

await scene('desk', quantize);
await scene('desk-dusk', async (page) => {
  await page.getByRole('button', { name: 'Dusk' }).click();
  await selectTrack(page, /Brush kit/);
  await page.getByRole('slider', { name: 'Swing' }).fill('62');
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
});
await scene('desk-small', (page) => selectTrack(page, /Electric piano/), { width: 1024, height: 700 });
await scene('songs', (page) => page.getByRole('link', { name: 'All songs' }).click());
await browser.close();
