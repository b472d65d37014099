import type { Groove } from '../song';

/** Builds a groove of one bar from offsets (in steps, late positive) and loudness, both repeated over the bar. */
function oneBar(name: string, value: Groove['value'], offsets: readonly number[], velocity: readonly number[]): Groove {
  const slots = Array.from({ length: value }, (_, k) => ({
    offset: offsets[k % offsets.length],
    velocity: velocity[k % velocity.length],
    count: 0,
  }));
  return { kind: 'early-sparrow-groove', version: 1, name, value, bars: 1, slots };
}

/** An off-beat offset in steps from a swing share: 2·(share − 0.5). */
const swing = (share: number) => 2 * (share - 0.5);

const BEATS_16 = [1.12, 0.92, 1.02, 0.94];
const BEATS_8 = [1.08, 0.92];

/** A groove of our own with what its numbers are. */
export interface BuiltInGroove {
  readonly groove: Groove;
  /** Its numbers in a sentence. */
  readonly about: string;
}

/** A dozen feels from straight to shuffle. Offsets are in steps of their note value; names and figures are ours. */
export const BUILT_IN_GROOVES: readonly BuiltInGroove[] = [
  { groove: oneBar('Even water', 16, [0], [1]), about: 'Straight sixteenths, all equally loud.' },
  { groove: oneBar('Plain walk', 8, [0], BEATS_8), about: 'Straight eighths; beats 8 % louder, off-beats 8 % softer.' },
  {
    groove: oneBar('Light sway', 16, [0, swing(0.54)], BEATS_16),
    about: 'Sixteenths at 54 % swing, hardly more than loose.',
  },
  { groove: oneBar('Deck roll', 16, [0, swing(0.58)], BEATS_16), about: 'Sixteenths at 58 % swing.' },
  {
    groove: oneBar('Night ferry', 16, [0, swing(0.62)], BEATS_16),
    about: 'Sixteenths at 62 % swing, as the brush kit plays.',
  },
  {
    groove: oneBar('Triplet tide', 8, [0, swing(2 / 3)], BEATS_8),
    about: 'Eighths at 66.7 %: the triplet, two to one.',
  },
  {
    groove: oneBar('Hard shuffle', 8, [0, swing(0.72)], [1.12, 0.88]),
    about: 'Eighths at 72 %, between triplet and dotted.',
  },
  {
    groove: oneBar('Pushed eighths', 8, [0, -0.06], BEATS_8),
    about: 'Off-beat eighths 6 % of a step early, beats on the line.',
  },
  {
    groove: oneBar('Leaning forward', 16, [-0.05, -0.05, -0.05, -0.05], BEATS_16),
    about: 'All sixteenths 5 % of a step ahead of the beat.',
  },
  {
    groove: oneBar('Laid back', 16, [0, 0.08, 0.1, 0.08], BEATS_16),
    about: 'Beats on the line, what is between them 8 to 10 % of a step late.',
  },
  {
    groove: oneBar(
      'Late backbeat',
      16,
      [0, 0, 0, 0, 0.12, 0.04, 0, 0, 0, 0, 0, 0, 0.12, 0.04, 0, 0],
      [1, 0.9, 0.96, 0.9, 1.15, 0.9, 0.96, 0.9],
    ),
    about: 'Beats 2 and 4 are 12 % of a sixteenth late and 15 % louder, the sixteenth after them 4 % late.',
  },
  {
    groove: oneBar(
      'Early snare',
      16,
      [0, 0, 0, 0, -0.1, 0, 0, 0, 0, 0, 0, 0, -0.1, 0, 0, 0],
      [1, 0.9, 0.96, 0.9, 1.15, 0.9, 0.96, 0.9],
    ),
    about: 'Beats 2 and 4 are 10 % of a sixteenth early and 15 % louder.',
  },
  {
    groove: oneBar('Limping step', 16, [0, 0.12, 0.04, 0.2], BEATS_16),
    about: 'Each sixteenth of a beat has its own delay: none, 12 %, 4 % and 20 % of a step.',
  },
];
