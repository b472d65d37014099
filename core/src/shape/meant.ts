import { gridLines, type Lines } from '../grid';
import { DEFAULT_TREATMENT, NEAR_LINE, timeOf, type Part, type Song, type Track } from '../song';
import type { Ticks } from '../time';
import { partLines } from '../treatment';
import type { NewNote } from './add';

/** The line that a place was meant for; null where none is less than a 32nd away. Ticks. */
export function meantLine(at: Ticks, lines: Lines, ppq: number): Ticks | null {
  const line = lines.nearest(at);
  return Math.abs(line - at) < NEAR_LINE * ppq ? Math.round(line) : null;
}

/** Copied notes of which the early ones know their lines, so that an early downbeat comes into the part of its bar. */
export function withLines(notes: readonly NewNote[], lines: Lines, ppq: number): NewNote[] {
  return notes.map((note) => {
    const line = meantLine(note.start, lines, ppq);
    return line === null || line <= note.start ? note : { ...note, line };
  });
}

/** The lines by which notes go that come into a track at a tick. */
export function linesAt(song: Song, track: Track, tick: Ticks): Lines {
  const over = track.parts.find((p) => p.start <= tick && tick < p.end);
  const part: Part | undefined = over ?? track.parts.findLast((p) => p.end <= tick) ?? track.parts[0];
  return part ? partLines(part, song) : gridLines(DEFAULT_TREATMENT.quantize.grid, timeOf(song));
}
