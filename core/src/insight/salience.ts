/** What is heard of notes that start together. */
export interface Heard {
  /** Loudest velocity and lowest pitch. */
  readonly velocity: number;
  readonly pitch: number;
  /** Notes in it. */
  readonly notes: number;
}

/** Further from the mean than this an onset tells no more, in standard deviations. */
const MOST = 2;
/** So many levels are told apart, from −{@link MOST} to {@link MOST}. */
export const LEVELS = 9;

/**
 * How much each onset stands out in its take: low, loud, many notes together, each against the take's own mean and spread,
 * so that each is worth what it tells there.
 * @returns a level each, from 0 to {@link LEVELS} − 1; the middle one for what does not stand out
 */
export function salienceLevels(onsets: readonly Heard[]): Uint8Array {
  const cues = [
    standardised(onsets, ({ pitch }) => -pitch),
    standardised(onsets, ({ velocity }) => velocity),
    standardised(onsets, ({ notes }) => Math.log2(notes)),
  ];
  const levels = new Uint8Array(onsets.length);
  for (let i = 0; i < onsets.length; i++) {
    const sum = cues.reduce((all, cue) => all + cue[i], 0) / Math.sqrt(cues.length);
    levels[i] = Math.round(((Math.max(-MOST, Math.min(MOST, sum)) + MOST) / (2 * MOST)) * (LEVELS - 1));
  }
  return levels;
}

/** The same in standard deviations. */
export function salience(onsets: readonly Heard[]): Float64Array {
  return Float64Array.from(salienceLevels(onsets), salienceOf);
}

/** What stands out by a level, in standard deviations. */
export function salienceOf(level: number): number {
  return -MOST + (2 * MOST * level) / (LEVELS - 1);
}

/** Values against their mean, in standard deviations; 0 where all are alike. */
function standardised(onsets: readonly Heard[], of: (onset: Heard) => number): Float64Array {
  const values = Float64Array.from(onsets, of);
  const mean = values.reduce((a, b) => a + b, 0) / values.length;
  const sd = Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length);
  return values.map((v) => (sd > 1e-6 ? (v - mean) / sd : 0));
}
