import { setTimeout as sleep } from 'node:timers/promises';
import { expect, test } from '@playwright/test';
import { beatF, freeTake, type FreeTake } from '../tools/accuracy/free';
import { boxOf, drag, slide } from './hands';
import {
  exported,
  exportMidi,
  importFile,
  listened,
  midiFile,
  openDemo,
  openSongs,
  painted,
  plainNote,
  played,
  readMidi,
  secondsOf,
  selectTrack,
} from './support';

/** Free playing with its chords. */
function harbourSong() {
  const take = freeTake(12);
  return { take, file: fileOf('Harbour song', take) };
}

function fileOf(name: string, take: FreeTake) {
  const notes = take.onsets.flatMap((o, i) =>
    Array.from({ length: o.notes }, (_, k) => plainNote(i * 10 + k, (o.ms * 960) / 500, o.pitch + k * 5, o.velocity)),
  );
  return midiFile(name, notes);
}

test('bars are fitted to a take without a click, undo takes it back; a beat is dragged, bar 1 begins elsewhere, the playing is steadied', async ({
  page,
}) => {
  const { file } = harbourSong();
  await openSongs(page);
  await importFile(page, file);
  await listened(page);
  await test.step('bars are fitted to a take without a click, every note stays where it sounds, and undo takes it back', async () => {
    const before = readMidi(await exportMidi(page, 'corrected'));
    await page.keyboard.press('Shift+F');
    const strip = page.getByRole('region', { name: 'Fit the tempo to the playing' });
    await expect(strip.getByText(/125 beats at about 78 BPM/)).toBeVisible({ timeout: 30_000 });
    // The octave is a choice, there and back.
    await strip.getByRole('button', { name: 'half as fast' }).click();
    await expect(strip.getByText(/beats at about (39|4\d) BPM/)).toBeVisible();
    await strip.getByRole('button', { name: 'twice as fast' }).click();
    await expect(strip.getByText(/125 beats at about 78 BPM/)).toBeVisible();
    await strip.getByRole('button', { name: 'Apply' }).click();
    await expect(strip).toHaveCount(0);
    const after = readMidi(await exportMidi(page, 'corrected'));
    const [was, is] = [secondsOf(before), secondsOf(after)];
    expect(is).toHaveLength(was.length);
    is.forEach((seconds, i) => expect(Math.abs(seconds - was[i])).toBeLessThanOrEqual(0.0005));
    // Chords of three are the first beats of bars, which they are in the bars that were fitted too.
    await expect(page.getByText('2/4')).toBeVisible();
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    const undone = readMidi(await exportMidi(page, 'corrected'));
    expect(undone).toEqual(before);
  });

  await test.step('a beat is dragged onto a note, bar 1 begins elsewhere, and the playing is steadied', async () => {
    await page.keyboard.press('Shift+B');
    await page.getByRole('button', { name: 'Fit to the playing' }).click();
    const strip = page.getByRole('region', { name: 'Fit the tempo to the playing' });
    const beat = strip.getByRole('button', { name: /^Beat 3 of bar 1,/ });
    await expect(beat).toBeVisible({ timeout: 30_000 });
    const was = await beat.getAttribute('aria-label');
    const { x, y } = await boxOf(beat);
    // A press that moves by a hair, and a drag that Escape takes back, leave it where it is.
    for (const [by, escape] of [
      [2, false],
      [17, true],
    ] as const) {
      await page.mouse.move(x + 5, y + 16);
      await page.mouse.down();
      await page.mouse.move(x + 5 + by, y + 16);
      if (escape) {
        await expect(beat).not.toHaveAttribute('aria-label', was ?? '');
        await page.keyboard.press('Escape');
      }
      await expect(beat).toHaveAttribute('aria-label', was ?? '');
      await page.mouse.up();
      await painted(page);
      await expect(strip.getByRole('status')).not.toContainText('Finding');
    }
    await drag(page, [x + 5, y + 16], [x + 22, y + 16]);
    await expect(beat).not.toHaveAttribute('aria-label', was ?? '');
    // By the keyboard too, and back.
    await page.keyboard.press('ArrowLeft');
    await strip.getByRole('button', { name: /^Beat 2 of bar 1,/ }).dblclick();
    await expect(strip.getByRole('button', { name: /^Beat 1 of bar 1,/ })).toBeVisible();
    // After a fermata the bars begin anew: bar 1 is then three beats long. By the key, and taken back by it.
    await strip.getByRole('button', { name: /^Beat 4 of bar 1,/ }).press('Shift+Enter');
    const later = strip.getByRole('button', { name: /^Beat 1 of bar 2,/ });
    await expect(later).toBeVisible();
    await expect(strip.getByRole('button', { name: /^Beat 4 of bar 1,/ })).toHaveCount(0);
    await later.press('Shift+Enter');
    await expect(strip.getByRole('button', { name: /^Beat 4 of bar 1,/ })).toBeVisible();
    await slide(page, 'Steadiness', 100);
    await strip.getByRole('button', { name: 'Steady the tempo' }).click();
    await expect(strip).toHaveCount(0);
    expect(readMidi(await exportMidi(page, 'corrected')).tempi).toHaveLength(1);
    await page.keyboard.press('Shift+F');
    await expect(strip).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(strip).toHaveCount(0);
  });
});

test('in a small window too, beats that lie beside are one press away', async ({ page }) => {
  await page.setViewportSize({ width: 1024, height: 700 });
  // Nothing stands out, and more is played a sixteenth before the beat than on it.
  const take = freeTake(31_008, 'syncopated', false);
  await openSongs(page);
  await importFile(page, fileOf('Night quay', take));
  await listened(page);
  await page.keyboard.press('Shift+F');
  const strip = page.getByRole('region', { name: 'Fit the tempo to the playing' });
  const [beside, apply] = [
    strip.getByRole('radio', { name: '102 BPM a quarter of a beat later' }),
    strip.getByRole('button', { name: 'Apply' }),
  ];
  await expect(beside).toBeInViewport({ ratio: 1, timeout: 30_000 });
  await expect(apply).toBeInViewport({ ratio: 1 });
  await beside.click();
  await apply.click();
  await expect(strip).toHaveCount(0);
  const after = readMidi(await exportMidi(page, 'corrected'));
  const quarters = Array.from({ length: 138 }, (_, k) => ({ ...after.notes[0], start: k * after.ppq }));
  const beats = secondsOf({ ...after, notes: quarters }).map((seconds) => seconds * 1000);
  expect(beatF(beats, take.beats)).toBeGreaterThan(0.95);
});

test('tapped along, the beats are found at the tempo that was tapped', async ({ page }) => {
  const { take, file } = harbourSong();
  await openSongs(page);
  await importFile(page, file);
  await listened(page);
  await page.keyboard.press('Shift+F');
  const strip = page.getByRole('region', { name: 'Fit the tempo to the playing' });
  await strip.getByRole('button', { name: 'half as fast' }).click();
  await expect(strip.getByText(/beats at about (39|4\d) BPM/)).toBeVisible({ timeout: 30_000 });
  await page.keyboard.press('Shift+N');
  await expect(strip.getByText('Press Play first, then tap along with the beat.')).toBeVisible();
  await page.keyboard.press('Space');
  const began = Date.now();
  // A tap does not wait for the page's answer to the one before.
  const taps: Promise<void>[] = [];
  await page.keyboard.down('Shift');
  for (const beat of take.beats.slice(1, 9)) {
    await sleep(began + beat - Date.now());
    taps.push(page.keyboard.press('N'));
  }
  await Promise.all(taps);
  await page.keyboard.up('Shift');
  await page.keyboard.press('Space');
  await expect(strip.getByText(/beats at about [78]\d BPM/)).toBeVisible({ timeout: 60_000 });
});

test('the bass lines up with the kit: each note where a hit is near, and on the grid elsewhere', async ({ page }) => {
  await openDemo(page);
  await selectTrack(page, 'Upright bass');
  await page.getByRole('button', { name: '1/16', exact: true }).click();
  await page.getByRole('combobox', { name: 'Line up with' }).click();
  await page.getByRole('option', { name: 'Brush kit' }).click();
  await page.getByRole('radio', { name: 'as played', exact: true }).click();
  await expect(page.getByText(/ms behind Brush kit/)).toBeVisible();
  const bass = await exported(page, 2);
  const hits = played(3).map((n) => n.start);
  const onHit = bass.filter((n) => hits.some((h) => Math.abs(h - n.start) <= 15)).length;
  expect(onHit / bass.length).toBeGreaterThan(0.75);
  for (const n of bass) {
    const near = Math.min(...hits.map((h) => Math.abs(h - n.start)));
    expect(near <= 15 || n.start % 240 === 0).toBe(true);
  }
});

test('a player who wanders is told, drawn and followed onto the lines that were meant', async ({ page }) => {
  // Sixteenths that breathe by 0.6 of a step around the click, with a little unevenness.
  const meant = Array.from({ length: 240 }, (_, i) => 3840 + i * 240);
  const notes = meant.map((line, i) => plainNote(i, line + 145 * Math.sin(i / 24) + ((i * 37) % 11) - 5, 60 + (i % 5)));
  await openSongs(page);
  await importFile(page, midiFile('Tide table', notes));
  await listened(page);
  await expect(page.getByText(/wandering ±\d+ ms/).first()).toBeVisible();
  await page.getByRole('switch', { name: 'Put starts on lines' }).click();
  const wrong = async () =>
    readMidi(await exportMidi(page, 'corrected')).notes.filter((n, i) => n.start !== meant[i]).length;
  expect(await wrong()).toBeGreaterThan(20);
  await expect(page.getByText(/^If the sixteenth lines follow the player, most chords are within/)).toBeVisible();
  await page.getByRole('button', { name: 'Follow the player', exact: true }).click();
  await expect(page.getByText(/Follow the player\./)).toBeVisible();
  expect(await wrong()).toBe(0);
});
