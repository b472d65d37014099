import { noteListCsv } from '../insight';
import { fileName, zipFiles } from '../keeping';
import { type Performance } from '../performance';
import { writeSmf } from '../smf';
import { meterOf, partStart, writeText, type Part, type Song } from '../song';
import { extract, perform, type Extent, type Extract } from '../treatment';

/** What of a song goes into a file. */
export type Wanted =
  | { readonly what: 'song' }
  | { readonly what: 'track'; readonly track: string }
  | { readonly what: 'parts'; readonly parts: readonly string[] }
  | { readonly what: 'loop'; readonly from: number; readonly to: number }
  | { readonly what: 'selection'; readonly notes: readonly number[] };

export interface OutputWishes {
  readonly wanted: Wanted;
  readonly side: 'played' | 'corrected';
  /** A standard MIDI file, one for each track in a zip, or the list of notes as CSV. */
  readonly form: 'midi' | 'tracks' | 'notes';
  /** Whether it keeps its place in the song, or begins at the first bar of its file. */
  readonly place: 'own' | 'first-bar';
}

/** A file that is ready to be written. */
export interface OutputFile {
  readonly name: string;
  /** Its media type. */
  readonly type: string;
  readonly bytes: Uint8Array;
}

/** Makes a file of a song, or of something in it. A whole song keeps the form of the file that it came from. */
export function makeOutput(song: Song, wishes: OutputWishes): OutputFile {
  const { wanted, side, form } = wishes;
  const stem = stemOf(song, wishes);
  const performance = perform(song, side);
  if (form === 'notes') {
    const text = noteListCsv(song, wantedTest(song, performance, wishes));
    return { name: `${stem}.csv`, type: 'text/csv', bytes: writeText(text) };
  }
  const extent = extentOf(song, performance, wishes);
  if (form === 'midi') {
    const whole = wanted.what === 'song' && extent.base === 0;
    const own: Extract = whole ? { song, performance } : extract(song, performance, extent);
    return { name: `${stem}.mid`, type: 'audio/midi', bytes: writeSmf(own.song, own.performance) };
  }
  const files = song.tracks.flatMap(({ id, name }, i) => {
    if (extent.tracks && !extent.tracks.has(id)) return [];
    const own = extract(song, performance, { ...extent, tracks: new Set([id]) });
    if (own.performance.every((t) => t.notes.length === 0)) return [];
    return [
      { name: `${String(i + 1).padStart(2, '0')} ${fileName(name)}.mid`, bytes: writeSmf(own.song, own.performance) },
    ];
  });
  return { name: `${stem}.zip`, type: 'application/zip', bytes: zipFiles(files) };
}

function stemOf(song: Song, { wanted, side }: OutputWishes): string {
  const parts = wanted.what === 'parts' ? partsIn(song, wanted.parts) : [];
  const what = {
    song: '',
    track: song.tracks.find((t) => wanted.what === 'track' && t.id === wanted.track)?.name ?? 'track',
    parts: parts.length === 1 ? parts[0].name : 'parts',
    loop: 'loop',
    selection: 'selection',
  }[wanted.what];
  return fileName(`${song.name}${what && `, ${what}`} (${side === 'played' ? 'as played' : 'corrected'})`);
}

function partsIn(song: Song, ids: readonly string[]): Part[] {
  return song.tracks.flatMap((t) => t.parts.filter((p) => ids.includes(p.id)));
}

/** Tells which notes are wanted, by the track's id, the note's id and its corrected tick. */
function wantedTest(
  song: Song,
  performance: Performance,
  wishes: OutputWishes,
): (track: string, note: number, tick: number) => boolean {
  const { wanted } = wishes;
  // Of a song or a track even what is silent is listed.
  if (wanted.what === 'song') return () => true;
  if (wanted.what === 'track') return (track) => track === wanted.track;
  const { song: own, performance: notes } = extract(song, performance, extentOf(song, performance, wishes));
  const ids = new Map(own.tracks.map((t, i) => [t.id, new Set(notes[i].notes.map((n) => n.note.id))]));
  return (track, note) => ids.get(track)?.has(note) ?? false;
}

function extentOf(song: Song, performance: Performance, { wanted, place }: OutputWishes): Extent {
  const first = place === 'first-bar';
  const all: Extent = { tracks: null, notes: null, span: null, base: 0 };
  if (wanted.what === 'loop') {
    const { from, to } = wanted;
    return { ...all, span: { from, to }, base: first ? from : 0 };
  }
  const ids =
    wanted.what === 'parts'
      ? new Set(partsIn(song, wanted.parts).flatMap((p) => p.notes.map((n) => n.id)))
      : wanted.what === 'selection'
        ? new Set(wanted.notes)
        : null;
  const sounding = song.tracks.flatMap((track, i) => {
    if (wanted.what === 'track' && track.id !== wanted.track) return [];
    return [{ id: track.id, notes: performance[i].notes.filter((n) => !ids || ids.has(n.note.id)) }];
  });
  const starts = sounding.flatMap((t) => t.notes.map((n) => n.start));
  const start = starts.reduce((a, b) => Math.min(a, b), Infinity);
  const base = first && start !== Infinity ? partStart(start, meterOf(song)) : 0;
  if (!ids) return { ...all, tracks: wanted.what === 'track' ? new Set([wanted.track]) : null, base };
  const ends = sounding.flatMap((t) => t.notes.map((n) => n.end));
  const parts = wanted.what === 'parts' ? partsIn(song, wanted.parts) : [];
  const from = parts.reduce((a, p) => Math.min(a, p.start), start);
  const to = parts.reduce(
    (a, p) => Math.max(a, p.end),
    ends.reduce((a, b) => Math.max(a, b), 0),
  );
  return {
    tracks: new Set(sounding.filter((t) => t.notes.length > 0).map((t) => t.id)),
    notes: ids,
    span: { from: Math.min(from, to), to },
    base,
  };
}
