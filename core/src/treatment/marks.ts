import type { Note } from '../song';

/** What a note may have that most do not have, as bits. */
export const MARK = {
  exception: 1,
  pin: 2,
  /** A double that Keep left silent. */
  dropped: 4,
  /** Muted by a person. */
  muted: 8,
  take: 16,
} as const;

/** How many of some notes have each: what is not there need not be looked for. */
export type Marks = Readonly<Record<keyof typeof MARK, number>>;

/** The marks of a note, as bits. */
export function marksOfNote({ exception, muted, take }: Note): number {
  let bits = 0;
  if (exception) {
    bits |= MARK.exception;
    if (exception.kind === 'pinned') bits |= MARK.pin;
    else if (exception.kind === 'dropped') bits |= MARK.dropped;
  }
  if (muted) bits |= MARK.muted;
  if (take) bits |= MARK.take;
  return bits;
}

export function countMarks(bits: Uint8Array): Marks {
  const counts = { exception: 0, pin: 0, dropped: 0, muted: 0, take: 0 };
  for (let i = 0; i < bits.length; i++) {
    const of = bits[i];
    if (of === 0) continue;
    if (of & MARK.exception) counts.exception++;
    if (of & MARK.pin) counts.pin++;
    if (of & MARK.dropped) counts.dropped++;
    if (of & MARK.muted) counts.muted++;
    if (of & MARK.take) counts.take++;
  }
  return counts;
}
