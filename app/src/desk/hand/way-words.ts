import type { Song } from '@early-sparrow/core/song';
import type { Way, WayStep } from '@early-sparrow/core/treatment';
import { earlyOrLate, signed } from '../../common/format';
import { placeText } from '../../common/places';

const STAGES: Readonly<Record<WayStep['stage'], string>> = {
  hand: 'moved by hand',
  lag: 'lag',
  quantize: 'line',
  push: 'push/pull',
  humanize: 'humanize',
  pinned: 'pinned',
  settle: 'held by a neighbour or the start',
};
const LEFT: Readonly<Record<NonNullable<WayStep['left']>, string>> = {
  'close-enough': 'close enough',
  'too-far': 'too far',
  'wrong-direction': 'on the other side',
};

/** A note's way in words, a phrase a step: `played 14 ms early`, `lag +11.0 ms`, `line 3.2.3: +2.4 ms`, `now 1 ms late`. */
export function wayWords({ playedMs, line, steps, nowMs }: Way, song: Song): readonly string[] {
  if (steps.length === 0) return [];
  return [
    `played ${earlyOrLate(playedMs)}`,
    ...steps.map(({ stage, ms, left }) => {
      const name = stage === 'quantize' ? `line ${placeText(song, Math.round(line))}` : STAGES[stage];
      return left ? `${name}: ${LEFT[left]}` : `${name} ${signedMs(ms)}`;
    }),
    `now ${earlyOrLate(nowMs)}`,
  ];
}

/** `+2.4 ms`, `−11.0 ms`, `±0.0 ms`. */
function signedMs(ms: number): string {
  const text = signed(ms);
  return `${text === '0.0' ? '±' : ''}${text}\u00a0ms`;
}
