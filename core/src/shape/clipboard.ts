import * as z from 'zod';
import type { EditProblem } from '../edit';
import { meterOf, PartEventSchema, type Song, type Track } from '../song';
import type { Ticks } from '../time';
import { partLines } from '../treatment';
import { copiesOf, MOST_NOTES, type NewNote } from './add';
import { linesAt, meantLine, withLines } from './meant';
import { problem } from './problem';
import { spanOf, type Taken } from './taken';

const Value7 = z.int().min(0).max(127);
const Tick = z
  .int()
  .min(0)
  .max(2 ** 40);

/** Longer than any note is played. */
const MOST_RIDDEN = 20_000;

/** Notes on the clipboard: text that any program can carry. Ticks of `ppq` a quarter note, from the first start on. */
const ClipSchema = z.object({
  kind: z.literal('early-sparrow-notes'),
  version: z.literal(1),
  ppq: z.int().min(1).max(32767),
  /** Where in its bar the line lay that the first note was meant for, or the note where no line was near; in ticks. */
  inBar: Tick,
  /** How far after that line the first note lay, in ticks; early is negative. */
  lead: z
    .int()
    .min(-(2 ** 20))
    .max(2 ** 20)
    .optional(),
  notes: z
    .array(
      z.object({
        start: Tick,
        length: Tick,
        pitch: Value7,
        velocity: z.int().min(1).max(127),
        channel: z.int().min(0).max(15),
        release: Value7.nullable(),
        muted: z.literal(true).optional(),
        /** Bend, pressure and controller 74 of its own, from its start. */
        ridden: z
          .array(
            z.object({
              at: z
                .int()
                .min(-(2 ** 40))
                .max(2 ** 40),
              event: PartEventSchema,
            }),
          )
          .max(MOST_RIDDEN)
          .readonly()
          .optional(),
      }),
    )
    .min(1),
});
export type Clip = Readonly<z.infer<typeof ClipSchema>>;

/** Notes as text for the clipboard; null for none. */
export function toClip(song: Song, taken: readonly Taken[]): string | null {
  const span = spanOf(taken);
  if (!span) return null;
  const from = Math.round(span.from);
  const first = taken.find(({ start }) => start === span.from) ?? taken[0];
  const line = meantLine(from, partLines(first.part, song), song.ppq) ?? from;
  const track = song.tracks.find((t) => t.parts.includes(taken[0].part)) ?? { setup: [] };
  const clip: Clip = {
    kind: 'early-sparrow-notes',
    version: 1,
    ppq: song.ppq,
    // Bars may begin between two ticks.
    inBar: Math.max(0, Math.round(line - meterOf(song).barStartAt(line + 0.5))),
    ...(line === from ? {} : { lead: from - line }),
    notes: copiesOf(track, taken, 0).map((n) => ({
      ...n,
      start: Math.round(n.start) - from,
      length: Math.max(1, Math.round(n.length)),
      release: n.release ?? null,
    })),
  };
  return JSON.stringify(clip);
}

export const NO_NOTES = 'The clipboard holds no notes. Select some and copy them first.';
/** Longer texts are not even read: so many notes would be refused. In characters. */
const LONGEST = 60_000_000;

export function tooManyNotes(): string {
  return `The clipboard holds too many notes; at most ${MOST_NOTES.toLocaleString('en')} can be pasted at once.`;
}

/** Reads the text of a clipboard. */
export function readClip(text: string): Clip | EditProblem {
  if (!text.includes('early-sparrow-notes')) return problem(NO_NOTES);
  if (text.length > LONGEST) return problem(tooManyNotes());
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return problem(NO_NOTES);
  }
  const list = (value as { notes?: unknown } | null)?.notes;
  if (Array.isArray(list) && list.length > MOST_NOTES) return problem(tooManyNotes());
  const read = ClipSchema.safeParse(value);
  return read.success ? read.data : problem(NO_NOTES);
}

/** The notes of a clipboard for a song. @param at where the first one comes to lie, in ticks */
export function notesOfClip({ ppq, notes }: Clip, song: Song, at: Ticks): NewNote[] {
  const factor = song.ppq / ppq;
  return notes.map(({ start, length, muted, ridden, ...rest }) => ({
    ...rest,
    start: at + start * factor,
    length: length * factor,
    ...(muted ? { muted } : {}),
    ...(ridden ? { ridden: ridden.map(({ at: from, event }) => ({ at: Math.round(from * factor), event })) } : {}),
  }));
}

/**
 * The notes of a clipboard for a track, at the playhead or in the same place in the playhead's bar. Where that is a line,
 * the line that the first note was meant for comes to it: what was early or late is so again. A note that would come to
 * lie before the song begins with it.
 */
export function pasted(clip: Clip, song: Song, track: Track, playhead: Ticks, where: 'playhead' | 'bar'): NewNote[] {
  const lines = linesAt(song, track, playhead);
  const line = where === 'bar' ? samePlaceInBar(clip, song, playhead) : playhead;
  const isLine = where === 'bar' || Math.abs(lines.nearest(playhead) - playhead) <= 1;
  const at = line + (isLine ? Math.round(((clip.lead ?? 0) * song.ppq) / clip.ppq) : 0);
  const notes = notesOfClip(clip, song, at).map((note) => {
    const before = Math.max(0, 0 - note.start);
    return before > 0 ? { ...note, start: 0, length: Math.max(1, note.length - before) } : note;
  });
  return withLines(notes, lines, song.ppq);
}

/** The same place in the bar that a tick is in, as where the line of the clipboard's first note was; ticks. */
function samePlaceInBar({ ppq, inBar }: Clip, song: Song, tick: Ticks): Ticks {
  return Math.round(meterOf(song).barStartAt(tick) + (inBar * song.ppq) / ppq);
}
