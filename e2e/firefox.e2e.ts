import { expect, test } from '@playwright/test';
import { Firefox, until } from './firefox';
import { byStart, onTruth, readMidi } from './support';

// The same application in another browser, driven by the browsers' own standard (WebDriver BiDi, W3C).

const MARIMBA = 1;
const RECORDED = 6;

let firefox: Firefox;
test.beforeAll(async () => {
  firefox = await Firefox.start();
});
test.afterAll(() => firefox.end());

const reaches = (bar: number) =>
  until(`bar ${bar}`, async () => Number((await firefox.words('es-transport .place')).split('.')[0]) >= bar);
const corrected = async () => {
  const { notes } = readMidi(await firefox.download(() => firefox.keys('Control', 's')));
  return (track: number) => byStart(notes.filter((n) => n.track === track));
};
const strength = async () => Number(/(\d+) % of the way/.exec(await firefox.words('es-quantize-stage .sentence'))?.[1]);

test('Firefox: a file is corrected, played, played to, exported, and is there after a reload', async ({ baseURL }) => {
  const { page } = firefox;
  await page.goto(baseURL ?? '');
  await page.waitForSelector('es-timing-view');
  await page.locator('es-desk-head a.home').click();
  await firefox.shows('body', /Open a file/);
  await firefox.choose('app/public/demo/night-ferry.mid', () => firefox.press('Open a file'));
  await firefox.shows('es-fits-panel', /typical miss/);

  await page.locator('.lean').click();
  await firefox.shows('es-lag-stage', /of rush/);
  await page.locator('es-fits-panel li button').click();
  await firefox.shows('es-quantize-stage', /on 1\/16 lines, 100 %/);
  expect(onTruth((await corrected())(MARIMBA), MARIMBA)).toBeGreaterThanOrEqual(0.99);
  await firefox.slide('Strength', 0.6);
  await until('another strength', async () => (await strength()) < 80);
  const share = await strength();
  expect(share).toBeGreaterThan(40);

  // There is no sound device here: it says so, and runs without sound when Play is pressed again.
  await firefox.press('Play');
  await firefox.shows('es-transport', /No sound device answers/);
  await firefox.press('Play');
  await reaches(2);
  await firefox.press('Stop');
  await firefox.press('Stop');
  await firefox.shows('es-transport .place', /^1\.1\.1$/);

  await firefox.keys('i');
  await page.locator('[aria-label="Input device"]').click();
  await firefox.press('Practice player');
  await firefox.press('Record');
  await reaches(4);
  await firefox.press('Stop');
  await firefox.shows('es-track-list', /Recording 1/);
  const before = await corrected();
  const [meant, played] = [before(MARIMBA), before(RECORDED)];
  expect(played.length).toBeGreaterThan(30);
  expect(played.every((n) => meant.some((m) => m.pitch === n.pitch && Math.abs(m.start - n.start) < 200))).toBe(true);

  await firefox.shows('es-desk-head', /saved/);
  await page.reload();
  await firefox.shows('es-track-list', /Recording 1/);
  const after = await corrected();
  expect([after(MARIMBA), after(RECORDED)]).toEqual([meant, played]);
  await page.locator('es-track-list button').click();
  expect(await strength()).toBe(share);
  expect(firefox.complaints).toEqual([]);
});
