import { takeOf, timeOf, type Part, type Song } from '../song';
import type { Ticks } from '../time';
import { VERDICT } from './assign';
import { factsOf } from './facts';
import { watchNote } from './treat';
import type { TimeStage } from './treater';

/** What moved a note, or left it. */
export type WayStage = TimeStage | 'hand' | 'pinned' | 'settle';

/** Why quantize left a note where it was. */
export type WayLeft = 'close-enough' | 'too-far' | 'wrong-direction';

/** A step on a note's way from where it was played to where it lies now. */
export interface WayStep {
  readonly stage: WayStage;
  /** Where it starts after it, in ticks; whole at the end of the way only. */
  readonly start: Ticks;
  /** How far it moved, in ms; later is positive. */
  readonly ms: number;
  /** Its offset from its line after it, in ms; early is negative. */
  readonly offsetMs: number;
  /** Why quantize did not move it; null where it did, and for other stages. */
  readonly left: WayLeft | null;
}

/** How a note came to lie where it lies. */
export interface Way {
  readonly played: Ticks;
  /** Offset of the played start from the line, in ms. */
  readonly playedMs: number;
  readonly line: Ticks;
  /** The stages that act on it, in their order; those that are off are left out. */
  readonly steps: readonly WayStep[];
  readonly now: Ticks;
  readonly nowMs: number;
}

const LEFT: Readonly<Partial<Record<number, WayLeft>>> = {
  [VERDICT.closeEnough]: 'close-enough',
  [VERDICT.tooFar]: 'too-far',
  [VERDICT.wrongDirection]: 'wrong-direction',
};

/** The way of a note of a part, by its index: the engine's own numbers, stage by stage. */
export function noteWay(part: Part, song: Song, index: number): Way {
  const facts = factsOf(part, song);
  const { tempo } = timeOf(song);
  const note = part.notes[index];
  const line = facts.line[index];
  const played = takeOf(note).start;
  const steps: WayStep[] = [];
  let at: Ticks = played;
  const step = (stage: WayStage, start: Ticks, left: WayLeft | null = null) => {
    steps.push({ stage, start, ms: tempo.between(at, start), offsetMs: tempo.between(line, start), left });
    at = start;
  };
  if (note.start !== played) step('hand', note.start);
  const watched: [TimeStage, Ticks][] = [];
  const found = watchNote(part, song, index, (stage, start) => watched.push([stage, start]));
  for (const [stage, start] of watched) {
    const verdict = stage === 'quantize' ? found?.group.chords.verdict[found.chord] : undefined;
    step(stage, start, verdict === undefined ? null : (LEFT[verdict] ?? null));
  }
  if (part.on && note.exception?.kind === 'pinned') step('pinned', note.exception.start);
  const now = facts.now[index];
  // Rounding to whole ticks is no step of its own; a note that is held back or cut by another is.
  if (Math.abs(now - at) > 1) step('settle', now);
  return { played, playedMs: tempo.between(line, played), line, steps, now, nowMs: tempo.between(line, now) };
}
