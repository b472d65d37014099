import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { expect, type Page } from '@playwright/test';
import { asPlayed } from '@early-sparrow/core/performance';
import { writeSmf } from '@early-sparrow/core/smf';
import { newPart, newSong, newTrack, type Note } from '@early-sparrow/core/song';

export const OPENMSX = '/usr/share/games/openttd/baseset/openmsx';
export const LARGE_FILE = '/usr/share/planetblupi/music/music009.mid';

/** Takes away the browser's own file windows, which no test can press. */
export async function withoutFileWindows(page: Page): Promise<void> {
  await page.addInitScript(() => {
    Reflect.deleteProperty(window, 'showOpenFilePicker');
    Reflect.deleteProperty(window, 'showSaveFilePicker');
  });
}

/** Opens the application for the first time: it shows the demo song. */
export async function openDemo(page: Page): Promise<void> {
  await withoutFileWindows(page);
  await page.goto('/');
  await page.waitForURL(/\/song\//);
  await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
}

/** Goes to the list of songs without the demo. */
export async function openSongs(page: Page): Promise<void> {
  await withoutFileWindows(page);
  await page.addInitScript(() => localStorage.setItem('early-sparrow.visited', 'yes'));
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Songs' })).toBeVisible();
}

/** Imports a file by the button, as a person does. */
export async function importFile(
  page: Page,
  path: string | { name: string; mimeType: string; buffer: Buffer },
): Promise<void> {
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Open a file' }).click();
  await (await chooser).setFiles(path);
}

export async function selectTrack(page: Page, name: string | RegExp): Promise<void> {
  await page.getByRole('list', { name: 'Tracks' }).getByRole('button', { name }).first().click();
}

/** Waits until the page has painted what was done to it. */
export async function painted(page: Page): Promise<void> {
  await page.waitForFunction(
    () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true)))),
  );
}

/** Reloads once everything is said to be saved. */
export async function reload(page: Page): Promise<void> {
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  await page.reload();
}

/** Waits until the worker has listened to the current part. */
export async function listened(page: Page): Promise<void> {
  await expect(page.getByText('typical miss', { exact: true })).toBeVisible({ timeout: 60_000 });
}

/** Where the roll, its ruler and its lane are on the page. */
export interface Roll {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** Middle of the loop's strip, of the ruler's numbers, and of the swing's handles. */
  readonly loopY: number;
  readonly barsY: number;
  readonly swingY: number;
  /** Where the roll begins under its ruler. */
  readonly top: number;
  readonly laneTop: number;
  /** Where a tick is, while the first two and a half bars from `from` are shown. */
  at(tick: number, from?: number): number;
}

/** What of the picture stands beside the notes, in px; the first view begins 12 px before its bar. */
const KEYS = 64;
const BEFORE = 12;

export async function roll(page: Page): Promise<Roll> {
  const box = await page.locator('es-timing-view').boundingBox();
  const head = await page.locator('es-timing-view .lane-head').first().boundingBox();
  if (!box || !head) throw new Error('The roll is not there.');
  return {
    ...box,
    loopY: box.y + 7,
    barsY: box.y + 39,
    swingY: box.y + 52,
    top: box.y + 59,
    laneTop: head.y,
    at: (tick, from = 0) => box.x + KEYS + BEFORE + ((tick - from) * (box.width - KEYS)) / (2.5 * 3840),
  };
}

/** Notes of one track in the exported file; ticks of the song, 960 a quarter. */
export async function exported(page: Page, track: number): Promise<FileNote[]> {
  const { notes } = readMidi(await exportMidi(page, 'corrected'));
  return notes.filter((n) => n.track === track);
}

export const TRUTH = JSON.parse(readFileSync('app/public/demo/night-ferry.truth.json', 'utf8')) as {
  ppq: number;
  bpm: number;
  tracks: { name: string; lagMs: number; swing: number; lines: number[]; wild: number[] }[];
};

/** Notes of one demo track as played, in the song's ticks. */
export function played(track: number): FileNote[] {
  return PLAYED.filter((n) => n.track === track).map((n) => ({ ...n, start: n.start * 2, end: n.end * 2 }));
}

export const byStart = (notes: readonly FileNote[]): FileNote[] =>
  [...notes].sort((a, b) => a.start - b.start || a.pitch - b.pitch);

/** Share of a demo track's notes that lie on their true line, the wild ones counted; 6 ticks are 3 ms. */
export function onTruth(notes: readonly FileNote[], track: number): number {
  const wanted = [...TRUTH.tracks[track - 1].lines].sort((a, b) => a - b);
  const now = byStart(notes);
  return now.filter((n, i) => Math.abs(n.start - wanted[i] * 2) <= 6).length / now.length;
}

/** Exports by the menu and gives the bytes of the file. */
export async function exportMidi(page: Page, which: 'corrected' | 'as played'): Promise<Buffer> {
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  await page.getByRole('menuitem', { name: `MIDI file, ${which}` }).click();
  return readFileSync(await (await download).path());
}

/** Ms between two exports: Chromium drops, without a word, what a page downloads beyond ten files a second. */
const BETWEEN_EXPORTS = 120;
const exportedAt = new WeakMap<Page, number>();

/** Exports the corrected song by its key and gives the bytes of the file. */
export async function exportByKey(page: Page): Promise<Buffer> {
  await sleep((exportedAt.get(page) ?? 0) + BETWEEN_EXPORTS - Date.now());
  exportedAt.set(page, Date.now());
  // A page that was opened this moment may not listen yet: then the key is pressed once more.
  const first = page.waitForEvent('download', { timeout: 30_000 }).catch(() => null);
  await page.keyboard.press('Control+s');
  const early = await first;
  if (early) return readFileSync(await early.path());
  const second = page.waitForEvent('download');
  await page.keyboard.press('Control+s');
  return readFileSync(await (await second).path());
}

/** A note as `midicsv` reads it; times in ticks of its file. */
export interface FileNote {
  /** The first track is 0. */
  readonly track: number;
  readonly channel: number;
  readonly pitch: number;
  readonly velocity: number;
  readonly start: number;
  readonly end: number;
}

/** A file as another program reads it; tempi as ticks and microseconds a quarter. */
export interface MidiRead {
  readonly ppq: number;
  readonly tempi: readonly (readonly [number, number])[];
  readonly notes: FileNote[];
}

/** Where each note starts, in seconds, under the file's own tempi. */
export function secondsOf({ ppq, tempi, notes }: MidiRead): number[] {
  const at = (tick: number) => {
    let [seconds, from, us] = [0, 0, 500_000];
    for (const [change, next] of tempi) {
      if (change >= tick) break;
      seconds += ((change - from) * us) / ppq / 1e6;
      [from, us] = [change, next];
    }
    return seconds + ((tick - from) * us) / ppq / 1e6;
  };
  return notes.map((n) => at(n.start));
}

/** Reads a file with another program (Debian package midicsv). */
export function readMidi(bytes: Buffer): MidiRead {
  let ppq = 0;
  const tempi: [number, number][] = [];
  const notes: FileNote[] = [];
  const sounding = new Map<string, { start: number; velocity: number }[]>();
  for (const line of midicsv(bytes)) {
    const [track, tick, type, ...values] = line.split(', ');
    if (type === 'Header') ppq = Number(values[2]);
    if (type === 'Tempo') tempi.push([Number(tick), Number(values[0])]);
    if (type !== 'Note_on_c' && type !== 'Note_off_c') continue;
    const [channel, pitch, velocity] = values.map(Number);
    const key = `${track} ${channel} ${pitch}`;
    const started = sounding.get(key) ?? [];
    sounding.set(key, started);
    if (type === 'Note_on_c' && velocity > 0) {
      started.push({ start: Number(tick), velocity });
      continue;
    }
    const first = started.shift();
    if (first) notes.push({ track: Number(track) - 1, channel, pitch, ...first, end: Number(tick) });
  }
  return { ppq, tempi, notes };
}

const READ_SECONDS = `
import io, json, sys, mido
at, starts = 0.0, []
for message in mido.MidiFile(file=io.BytesIO(sys.stdin.buffer.read())):
    at += message.time
    if message.type == 'note_on' and message.velocity > 0: starts.append(at)
print(json.dumps(starts))
`;

/** When the notes of a file begin, in seconds, by `python3-mido`. */
export function secondsWithMido(bytes: Buffer): number[] {
  return JSON.parse(execFileSync('/usr/bin/python3', ['-c', READ_SECONDS], { input: bytes }).toString());
}

/** A file as lines of `midicsv` (Debian package), without its notes where `notes` is false. */
export function midicsv(bytes: Buffer, notes = true): string[] {
  const lines = execFileSync('midicsv', ['-', '-'], { input: bytes, maxBuffer: 1 << 28, encoding: 'latin1' }).split(
    '\n',
  );
  return notes ? lines : lines.filter((l) => !/Note_o(n|ff)_c/.test(l));
}

const PLAYED = readMidi(readFileSync('app/public/demo/night-ferry.mid')).notes;

/** A MIDI file of one track, at 120 BPM and 960 ticks a quarter. */
export function midiFile(name: string, notes: readonly Note[]): { name: string; mimeType: string; buffer: Buffer } {
  const sorted = [...notes].sort((a, b) => a.start - b.start || a.pitch - b.pitch);
  const part = newPart('p', name, 0, sorted[sorted.length - 1].start + 960, { notes: sorted });
  const song = { ...newSong(name), tracks: [newTrack('t', name, { parts: [part] })], nextId: notes.length };
  return { name: `${name}.mid`, mimeType: 'audio/midi', buffer: Buffer.from(writeSmf(song, asPlayed(song))) };
}

/** A short note. */
export const plainNote = (id: number, start: number, pitch: number, velocity = 80): Note => {
  return { id, start: Math.round(start), length: 120, pitch, velocity, channel: 0, release: 64 };
};
