import { expect, type Page } from '@playwright/test';
import type { Note } from '@early-sparrow/core/song';
import { boxOf, uncovered, type Place } from './hands';
import {
  byStart,
  exportByKey,
  importFile,
  midiFile,
  openSongs,
  readMidi,
  roll,
  type FileNote,
  type Roll,
} from './support';

/** Height of the ruler, and of a row where few keys are played; in px. */
const RULER = 59;
const ROW = 20;

/** A roll whose rows are known: that of a file with few keys. */
export interface Rows extends Roll {
  /** A place in a note's body. @param tick @param dx px to the right of it */
  note(tick: number, pitch: number, dx?: number): Place;
}

/** Opens a file of some notes that are no further apart than two octaves, and tells where they are. */
export async function openNotes(page: Page, name: string, notes: readonly Note[]): Promise<Rows> {
  if (page.url() === 'about:blank') await openSongs(page);
  else await page.getByRole('link', { name: 'All songs' }).click();
  await importFile(page, midiFile(name, notes));
  await page.waitForURL(/\/song\//);
  return rowsOf(
    page,
    notes.map((n) => n.pitch),
  );
}

export async function rowsOf(page: Page, pitches: readonly number[]): Promise<Rows> {
  const r = await roll(page);
  const [low, high] = [Math.min(...pitches), Math.max(...pitches)];
  const spare = (r.laneTop - r.y - RULER) / ROW - (high - low + 4);
  const top = high + 2 + Math.max(0, spare / 2);
  const y = (pitch: number) => r.y + RULER + (top - pitch) * ROW + ROW / 2;
  return { ...r, note: (tick, pitch, dx = 4) => [r.at(tick) + dx, y(pitch)] };
}

/** The notes of the one track of a file, corrected, as another program reads them, in order of time. */
export async function notesNow(page: Page): Promise<FileNote[]> {
  return byStart(readMidi(await exportByKey(page)).notes);
}

export const lengths = (notes: readonly FileNote[]): number[] => notes.map((n) => n.end - n.start);

/** What undo would take back. */
export async function lastStep(page: Page): Promise<string | null> {
  return page.getByRole('button', { name: 'Undo' }).getAttribute('title');
}

/** Runs a command of the list by its name, by keys alone. */
export async function runCommand(page: Page, name: string): Promise<void> {
  await page.keyboard.press('Control+k');
  await expect(page.getByRole('combobox', { name: 'Search commands' })).toBeFocused();
  await page.keyboard.type(name);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog', { name: 'Commands' })).toHaveCount(0);
}

/** Opens lanes under the roll by the menu. */
export async function openLanes(page: Page, names: readonly string[]): Promise<void> {
  await page.getByRole('button', { name: 'lanes', exact: true }).click();
  for (const name of names) await page.getByRole('menuitemcheckbox', { name }).click();
  await page.keyboard.press('Escape');
  await uncovered(page);
}

/** Top and height of a lane on the page, by the words of its head. */
export async function laneOf(page: Page, words: string): Promise<{ top: number; bottom: number }> {
  const heads = page.locator('es-timing-view .lane-head');
  const head = await boxOf(heads.filter({ hasText: words }));
  const view = await boxOf(page.locator('es-timing-view'));
  // It ends where the next one begins, or with the picture.
  let bottom = view.y + view.height;
  for (const other of await heads.all()) {
    const { y } = await boxOf(other);
    if (y > head.y && y < bottom) bottom = y;
  }
  return { top: head.y, bottom };
}
