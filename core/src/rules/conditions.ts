import { byLines, type Lines } from '../grid';
import { ON_LINE_MS } from '../insight';
import type { IdSet } from '../maths';
import { beatOf, endOf, offsetOf, SAME_BEAT, startOf, type Seen } from '../shape';
import { pitchName, tempoOf, type Song, type Stretch } from '../song';
import { chordOf } from './chord';
import { choice, number, pitch, type Fields, type Values } from './field';

/** What conditions can ask about beside the notes. */
export interface Around {
  readonly song: Song;
  /** The loop; null for none. */
  readonly loop: Stretch | null;
  /** Ids of the selected notes. */
  readonly selected: IdSet;
}

/** A kind of condition on a note. */
export interface ConditionKind<F extends Fields = Fields> {
  /** As it stands in a list to choose from. */
  readonly name: string;
  readonly fields: F;
  /** Behind `notes`, as in `notes on the beat`. */
  words(values: Values<F>): string;
  test(seen: Seen, values: Values<F>, around: Around): boolean;
}

function condition<const F extends Fields>(
  name: string,
  fields: F,
  words: (values: Values<F>) => string,
  test: (seen: Seen, values: Values<F>, around: Around) => boolean,
): ConditionKind<F> {
  return { name, fields, words, test };
}

/** Drums by their keys in General MIDI level 1 (MIDI Manufacturers Association, RP-003). */
const DRUMS = {
  kick: [35, 36],
  snare: [37, 38, 39, 40],
  hats: [42, 44, 46],
  toms: [41, 43, 45, 47, 48, 50],
  cymbals: [49, 51, 52, 53, 55, 57, 59],
} as const;

/** Whether a beat is a whole one, of those that pass a test. */
function isBeat(seen: Seen, which: (beat: number) => boolean = () => true): boolean {
  const beat = beatOf(seen);
  return Math.abs(beat - Math.round(beat)) < SAME_BEAT && which(Math.round(beat));
}

/** What the last loop that was asked about means by the lines of a part. */
const known = new WeakMap<Lines, { readonly loop: Stretch; readonly stretch: Stretch }>();

/** Whether a note was meant for a loop: its first downbeat is of it however early, and the first one behind it is not. */
function isMeantFor(loop: Stretch, seen: Seen): boolean {
  const { lines } = seen.facts;
  let found = known.get(lines);
  if (found?.loop !== loop) known.set(lines, (found = { loop, stretch: byLines(loop, lines) }));
  const start = startOf(seen);
  return start >= found.stretch.from && start < found.stretch.to;
}

const msLong = (seen: Seen, { song }: Around): number => tempoOf(song).between(startOf(seen), endOf(seen));
const pitchOf = ({ part, index }: Seen): number => part.notes[index].pitch;
const velocityOf = ({ facts, part, side, index }: Seen): number =>
  side === 'played' ? part.notes[index].velocity : facts.velocity[index];
const ms = (label: string, fresh: number) => number(label, 'ms', 0, 2000, fresh);

/** Whether a note is a drum's: on the channel of drums in General MIDI, or in a track that sounds as a kit. */
function isDrum({ part, index }: Seen, { song }: Around): boolean {
  return part.notes[index].channel === 9 || song.tracks.some((t) => t.voice === 'drums' && t.parts.includes(part));
}

/** Two bounds, whichever was set to be the lower one. */
export interface Bounds {
  readonly low: number;
  readonly high: number;
}

export function inOrder({ low, high }: Bounds): readonly [number, number] {
  return low <= high ? [low, high] : [high, low];
}

function isWithin(value: number, bounds: Bounds): boolean {
  const [low, high] = inOrder(bounds);
  return value >= low && value <= high;
}

/** Whether a note is the outermost of its chord of at least two, on one side. */
function isOutermost(seen: Seen, side: 1 | -1): boolean {
  const chord = chordOf(seen.facts, seen.index);
  const own = pitchOf(seen) * side;
  return chord.length > 1 && chord.every((i) => pitchOf({ ...seen, index: i }) * side <= own);
}

/** What the notes of a rule can be told by. */
export const RULE_CONDITIONS = {
  beat: condition(
    'on the beat',
    {},
    () => 'on the beat',
    (seen) => isBeat(seen),
  ),
  'off-beat': condition(
    'off the beat',
    {},
    () => 'off the beat',
    (seen) => !isBeat(seen),
  ),
  downbeat: condition(
    'on beat 1',
    {},
    () => 'on beat 1',
    (seen) => isBeat(seen, (b) => b === 1),
  ),
  backbeat: condition(
    'on beats 2, 4, …',
    {},
    () => 'on beats 2, 4, …',
    (seen) => isBeat(seen, (b) => b % 2 === 0),
  ),
  place: condition(
    'at a place in the bar',
    { from: number('From beat', '', 1, 64, 1), to: number('To beat', '', 1, 64, 1.5) },
    ({ from, to }) => `from beat ${from} to ${to}`,
    (seen, { from, to }) => beatOf(seen) >= from - SAME_BEAT && beatOf(seen) <= to + SAME_BEAT,
  ),
  line: condition(
    'on their line',
    { within: ms('Within', ON_LINE_MS) },
    ({ within }) => `within ${within}\u00a0ms of their line`,
    (seen, { within }) => Math.abs(offsetOf(seen)) <= within,
  ),
  early: condition(
    'early',
    { by: ms('By more than', 15) },
    ({ by }) => `more than ${by}\u00a0ms early`,
    (seen, { by }) => -offsetOf(seen) > by,
  ),
  late: condition(
    'late',
    { by: ms('By more than', 15) },
    ({ by }) => `more than ${by}\u00a0ms late`,
    (seen, { by }) => offsetOf(seen) > by,
  ),
  loop: condition(
    'inside the loop',
    {},
    () => 'inside the loop',
    (seen, _, { loop }) => loop !== null && isMeantFor(loop, seen),
  ),
  pitch: condition(
    'with a pitch',
    { low: pitch('Lowest', 36), high: pitch('Highest', 60) },
    (of) => {
      const [low, high] = inOrder(of);
      return low === high ? `on ${pitchName(low)}` : `from ${pitchName(low)} to ${pitchName(high)}`;
    },
    (seen, of) => isWithin(pitchOf(seen), of),
  ),
  drum: condition(
    'of a drum',
    { which: choice('Drum', ['kick', 'snare', 'hats', 'toms', 'cymbals'], 'hats') },
    ({ which }) => `of the ${which}`,
    (seen, { which }, around) => isDrum(seen, around) && (DRUMS[which] as readonly number[]).includes(pitchOf(seen)),
  ),
  velocity: condition(
    'with a velocity',
    { low: number('Lowest', '', 1, 127, 1), high: number('Highest', '', 1, 127, 40) },
    (of) => `with a velocity of ${inOrder(of).join(' to ')}`,
    (seen, of) => isWithin(velocityOf(seen), of),
  ),
  shorter: condition(
    'shorter than',
    { than: ms('Than', 40) },
    ({ than }) => `shorter than ${than}\u00a0ms`,
    (seen, { than }, around) => msLong(seen, around) < than,
  ),
  longer: condition(
    'longer than',
    { than: ms('Than', 500) },
    ({ than }) => `longer than ${than}\u00a0ms`,
    (seen, { than }, around) => msLong(seen, around) > than,
  ),
  chord: condition(
    'in chords',
    { of: number('Of at least', 'notes', 2, 12, 3) },
    ({ of }) => `in chords of ${of} or more`,
    (seen, { of }) => chordOf(seen.facts, seen.index).length >= of,
  ),
  lowest: condition(
    'lowest of their chord',
    {},
    () => 'that are the lowest of their chord',
    (seen) => isOutermost(seen, -1),
  ),
  highest: condition(
    'highest of their chord',
    {},
    () => 'that are the highest of their chord',
    (seen) => isOutermost(seen, 1),
  ),
  muted: condition(
    'muted',
    {},
    () => 'that are muted',
    ({ part, index }) => part.notes[index].muted === true,
  ),
  selected: condition(
    'selected',
    {},
    () => 'that are selected',
    ({ part, index }, _, { selected }) => selected.has(part.notes[index].id),
  ),
} as const;
export type ConditionId = keyof typeof RULE_CONDITIONS;
