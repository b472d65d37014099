import { expect, test, type Page } from '@playwright/test';
import { lastStep } from './shaping';
import {
  byStart,
  exported,
  importFile,
  listened,
  midiFile,
  openDemo,
  OPENMSX,
  openSongs,
  plainNote,
  played,
  reload,
} from './support';

const MARIMBA = 1;
const KIT = 3;
const CLARINET = 5;

const strip = (page: Page) => page.getByRole('region', { name: 'Put the song right' });
const row = (page: Page, track: string) => strip(page).getByRole('row', { name: new RegExp(`^${track}`) });
const offer = (page: Page) => page.locator('es-messages').getByRole('button', { name: 'Put the song right' });
const starts = async (page: Page, track: number) => byStart(await exported(page, track)).map((n) => n.start);
const asPlayed = (track: number) => byStart(played(track)).map((n) => n.start);
/** How many notes of a track do not start where they were played. */
const moved = async (page: Page, track: number) => {
  const before = asPlayed(track);
  return (await starts(page, track)).filter((start, i) => start !== before[i]).length;
};

test('a newcomer sees what every track needs, hears it, and applies all that is sure in one step', async ({ page }) => {
  await openDemo(page);
  await offer(page).click();
  await expect(strip(page).getByRole('status')).toHaveText('5 tracks: 5 sure.', { timeout: 60_000 });
  await expect(row(page, 'Clarinet')).toContainText(/1\/16\+1\/8T.*Most chords are within .* nothing merges/);
  await expect(row(page, 'Marimba')).toContainText(/11\sms early, ±1\sms.*steady.*1\/16.*435 of 435 notes.*sure/);
  // Heard before it is decided: the song sounds corrected, and nothing is done.
  await strip(page).getByRole('button', { name: 'Hear Marimba corrected' }).click();
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Tracks' })).toContainText(/11 ms early.*±1 ms/);
  await strip(page).getByRole('button', { name: 'Hear Marimba corrected' }).click();
  await expect(page.getByRole('list', { name: 'Tracks' })).not.toContainText('±1 ms');
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
  // Two are left; the others are applied, and the file is what their rows say.
  await strip(page).getByRole('button', { name: 'Leave Brush kit' }).click();
  await strip(page).getByRole('button', { name: 'Leave Clarinet' }).click();
  await expect(row(page, 'Brush kit')).toContainText('left');
  await strip(page).getByRole('button', { name: 'Apply all that is sure' }).click();
  await expect.poll(() => lastStep(page)).toBe('Put 3 tracks right');
  await expect(row(page, 'Marimba')).toContainText('applied');
  expect(await moved(page, MARIMBA)).toBe(435);
  expect(await moved(page, KIT)).toBe(0);
  expect(await moved(page, CLARINET)).toBe(0);
  await expect(offer(page)).toHaveCount(0);
  // One that was left is applied by hand, and adjusted in the panel.
  await strip(page).getByRole('button', { name: 'Adjust Clarinet' }).click();
  await expect.poll(() => lastStep(page)).toBe('Put Clarinet right');
  await expect(page.locator('es-treatment-panel').getByRole('heading', { name: 'Clarinet' })).toBeVisible();
  const said = Number(/(\d+) of 300 notes/.exec(await row(page, 'Clarinet').innerText())?.[1]);
  expect(await moved(page, CLARINET)).toBe(said);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  expect(await starts(page, MARIMBA)).toEqual(asPlayed(MARIMBA));
  await expect(row(page, 'Marimba')).toContainText('sure');
});

test('the first real file is offered to be put right, and is better for it', async ({ page }) => {
  await openSongs(page);
  // A piece of Debian's openttd-openmsx, played by hand against a click.
  await importFile(page, `${OPENMSX}/tttheme2.mid`);
  await offer(page).click();
  await expect(strip(page).getByRole('status')).toHaveText(/^13 tracks: \d+ sure, \d+ doubtful\.$/, {
    timeout: 60_000,
  });
  const before = await starts(page, 1);
  await strip(page).getByRole('button', { name: 'Apply all that is sure' }).click();
  await expect.poll(() => lastStep(page)).toMatch(/^Put .* right$/);
  await expect(strip(page).getByRole('status')).toContainText('applied');
  // The bass was 15 ms ahead of the beat.
  const after = await starts(page, 1);
  expect(after.length).toBe(before.length);
  const ahead = after.map((tick, i) => tick - before[i]).sort((a, b) => a - b)[after.length >> 1];
  expect(ahead * (60_000 / 106 / 960)).toBeGreaterThan(8);
});

test('who hides the offer is not offered again, and reaches the table by its key', async ({ page }) => {
  await openDemo(page);
  await page.locator('es-messages').getByRole('button', { name: 'Hide' }).click();
  await expect(offer(page)).toHaveCount(0);
  await reload(page);
  await listened(page);
  await expect(offer(page)).toHaveCount(0);
  await page.keyboard.press('Shift+j');
  await expect(strip(page)).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(strip(page)).toHaveCount(0);
});

test('a song of one short track is not offered to be put right, and the table says what it lacks', async ({ page }) => {
  await openSongs(page);
  await importFile(
    page,
    midiFile(
      'Few',
      Array.from({ length: 9 }, (_, i) => plainNote(i, i * 480 + 40 + ((i * 7) % 9), 60)),
    ),
  );
  await expect(page.getByRole('heading', { name: 'Few' }).first()).toBeVisible();
  await listened(page);
  await expect(offer(page)).toHaveCount(0);
  await page.keyboard.press('Shift+j');
  await expect(strip(page).getByRole('row').nth(1)).toContainText('Only 9 chords to go by.');
  await expect(strip(page).getByRole('button', { name: 'Apply all that is sure' })).toHaveCount(0);
});
