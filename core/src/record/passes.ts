import { byLines } from '../grid';
import type { Stretch } from '../song';
import type { Ms } from '../time';
import { collect, inPunch, type Collecting, type PlayedNote, type Round } from './collect';
import type { PlayedMessage } from './message';

/** What was played from one start of the song, or one jump in it, up to the next. */
export interface Pass {
  readonly messages: readonly PlayedMessage[];
  /** Where it began, and where it was left. */
  readonly from: Ms;
  readonly stopped: Ms;
  /** Round of the loop in which it was left, from 0. */
  readonly round: number;
}

/** What all passes have in common. */
export type Passing = Omit<Collecting, 'stopped' | 'end'> & {
  /** The loop's end; null without one. */
  readonly loopEnd: Ms | null;
};

/** Rounds of all passes: over a loop each is one of its own, else all are played into one. */
export function playedIn(passes: readonly Pass[], how: Passing): Round[] {
  const all = passes.flatMap((pass) => roundsOf(pass, how));
  return how.begin === null ? [merged(all)] : all;
}

/** What was struck outside of the punch range, at its own place: nothing that was heard is thrown away. */
export function playedOutside(passes: readonly Pass[], how: Passing): PlayedNote[] {
  if (how.punch === null) return [];
  const { notes } = merged(passes.flatMap((pass) => roundsOf(pass, { ...how, punch: null })));
  return notes.filter((n) => !inPunch(how.tempo.toMs(n.start), how));
}

/** The stretches that were played over: what is recorded in place of something takes no more of it than that. */
export function playedOver(passes: readonly Pass[], { tempo, lines, begin, loopEnd, punch }: Passing): Stretch[] {
  const ms = passes.flatMap(({ from, stopped, round }) => {
    if (begin === null || loopEnd === null || round === 0) return [[from, stopped]];
    return round === 1 && from > begin
      ? [
          [from, loopEnd],
          [begin, Math.min(stopped, from)],
        ]
      : [[Math.min(from, begin), loopEnd]];
  });
  return ms.flatMap(([a, b]) => {
    const from = Math.max(a, punch?.from ?? a);
    const to = Math.min(b, punch?.to ?? b);
    if (to <= from) return [];
    const stretch = byLines({ from: tempo.toTick(from), to: tempo.toTick(to) }, lines);
    return [{ from: Math.max(0, Math.round(stretch.from)), to: Math.max(0, Math.round(stretch.to)) }];
  });
}

function roundsOf({ messages, stopped }: Pass, how: Passing): Round[] {
  const last = messages.reduce((most, m) => Math.max(most, m.ms), 0);
  const end = how.loopEnd ?? Math.max(last + 1, stopped);
  // The playhead that is shown lags a little behind what is played.
  return collect(messages, { ...how, end, stopped: Math.max(stopped, messages.at(-1)?.ms ?? 0) });
}

function merged(rounds: readonly Round[]): Round {
  return {
    notes: rounds.flatMap((r) => r.notes).sort((a, b) => a.start - b.start || a.pitch - b.pitch),
    events: rounds.flatMap((r) => r.events).sort((a, b) => a.tick - b.tick),
  };
}
