import type { Edit, EditProblem } from '../edit';
import { hashBase, hashKey } from '../maths';
import {
  addNotes,
  erase,
  mute,
  reshape,
  SCALES,
  stretch,
  transpose,
  type NewNote,
  type ScaleName,
  type Shaped,
  type Side,
  type Taken,
} from '../shape';
import { PITCH_NAMES, pitchName, tempoOf, type Song, type Track } from '../song';
import { factsOf } from '../treatment';
import { chordOf, chordRoot } from './chord';
import { inOrder, type Bounds } from './conditions';
import { choice, number, pitch, type Fields, type Values } from './field';

/** What an action is done to: the notes of one track that a rule has found. */
export interface Found {
  readonly song: Song;
  readonly track: Track;
  readonly taken: readonly Taken[];
  readonly side: Side;
  /** Of what is random. */
  readonly seed: number;
}

/** A kind of action on the notes that a rule has found. */
export interface ActionKind<F extends Fields = Fields> {
  readonly name: string;
  readonly fields: F;
  /** In the imperative, as in `notes on the beat: raise the velocity by 12`. */
  words(values: Values<F>): string;
  /** What becomes of the notes; `select` leaves them as they are. */
  act(found: Found, values: Values<F>): Shaped | 'select';
}

function action<const F extends Fields>(
  name: string,
  fields: F,
  words: (values: Values<F>) => string,
  act: (found: Found, values: Values<F>) => Shaped | 'select',
): ActionKind<F> {
  return { name, fields, words, act };
}

/** Which random number of a note is drawn: none that humanizing draws. */
const PROPERTY = { velocity: 21, pitch: 22 } as const;

/** A random number of a note, 0 up to 1; the same for the same seed and note. */
function drawn(seed: number, property: number, id: number): number {
  return hashKey(hashBase(seed, property), id) / 2 ** 32;
}

const signed = (n: number): string => (n < 0 ? `−${Math.abs(n)}` : `+${n}`);
const NAME = 'Rule';
const velocity = (label: string, fresh: number) => number(label, '', 1, 127, fresh);

/** What a rule can do. */
export const RULE_ACTIONS = {
  select: action(
    'select them',
    {},
    () => 'select them',
    () => 'select',
  ),
  erase: action(
    'erase them',
    {},
    () => 'erase them',
    ({ track, taken }) => erase(track, taken),
  ),
  mute: action(
    'mute them',
    {},
    () => 'mute them',
    ({ track, taken }) => mute(track, taken, true),
  ),
  unmute: action(
    'unmute them',
    {},
    () => 'unmute them',
    ({ track, taken }) => mute(track, taken, false),
  ),
  nudge: action(
    'nudge them by ms',
    { by: number('By', 'ms', -500, 500, 5) },
    ({ by }) => `nudge them by ${signed(by)}\u00a0ms`,
    ({ song, track, taken }, { by }) => {
      const tempo = tempoOf(song);
      return reshape(NAME, track, taken, ({ start }) => ({ start: tempo.shift(start, by) }));
    },
  ),
  'nudge-ticks': action(
    'nudge them by ticks',
    { by: number('By', 'ticks', -960, 960, -4) },
    ({ by }) => `nudge them by ${signed(by)} ticks`,
    ({ track, taken }, { by }) => reshape(NAME, track, taken, ({ start }) => ({ start: start + by })),
  ),
  quantize: action(
    'put them on their lines',
    { strength: number('Strength', '%', 0, 100, 100) },
    ({ strength }) => (strength === 100 ? 'put them on their lines' : `pull them ${strength}\u00a0% to their lines`),
    quantize,
  ),
  'velocity-add': action(
    'raise or lower the velocity',
    { by: number('By', '', -126, 126, 12) },
    ({ by }) => `${by < 0 ? 'lower' : 'raise'} the velocity by ${Math.abs(by)}`,
    ({ track, taken }, { by }) => reshape(NAME, track, taken, (t) => ({ velocity: t.velocity + by })),
  ),
  'velocity-scale': action(
    'scale the velocity',
    { to: number('To', '%', 1, 400, 80) },
    ({ to }) => `scale the velocity to ${to}\u00a0%`,
    ({ track, taken }, { to }) => reshape(NAME, track, taken, (t) => ({ velocity: (t.velocity * to) / 100 })),
  ),
  'velocity-set': action(
    'set the velocity',
    { to: velocity('To', 90) },
    ({ to }) => `set the velocity to ${to}`,
    ({ track, taken }, { to }) => reshape(NAME, track, taken, () => ({ velocity: to })),
  ),
  'velocity-even': action(
    'even out the velocities',
    { left: number('Contrast left', '%', 0, 100, 50) },
    ({ left }) => `leave ${left}\u00a0% of the velocity contrast`,
    ({ track, taken }, { left }) => {
      const mean = taken.reduce((sum, t) => sum + t.velocity, 0) / Math.max(1, taken.length);
      return reshape(NAME, track, taken, (t) => ({ velocity: mean + ((t.velocity - mean) * left) / 100 }));
    },
  ),
  'velocity-random': action(
    'random velocities',
    { low: velocity('Lowest', 60), high: velocity('Highest', 100) },
    (of) => `give them random velocities of ${inOrder(of).join(' to ')}`,
    ({ track, taken, seed }, of) => {
      const [least, most] = inOrder(of);
      return reshape(NAME, track, taken, ({ note }) => ({
        velocity: Math.floor(least + drawn(seed, PROPERTY.velocity, note.id) * (most - least + 1)),
      }));
    },
  ),
  transpose: action(
    'transpose them',
    { by: number('By', 'semitones', -60, 60, 12) },
    ({ by }) => `transpose them by ${signed(by)}`,
    ({ track, taken }, { by }) => transpose(track, taken, Math.round(by)),
  ),
  'pitch-set': action(
    'put them on one pitch',
    { to: pitch('To', 60) },
    ({ to }) => `put them on ${pitchName(to)}`,
    ({ track, taken }, { to }) => reshape(NAME, track, taken, () => ({ pitch: to })),
  ),
  'pitch-random': action(
    'random pitches',
    {
      low: pitch('Lowest', 36),
      high: pitch('Highest', 51),
      root: choice('Root', PITCH_NAMES as [string, ...string[]], 'C'),
      scale: choice('Scale', ['chromatic', ...(Object.keys(SCALES) as ScaleName[])], 'chromatic'),
    },
    ({ root, scale, ...of }) =>
      `give them random pitches of ${inOrder(of).map(pitchName).join(' to ')}` +
      (scale === 'chromatic' ? '' : ` in ${root} ${scale}`),
    randomPitches,
  ),
  interval: action(
    'add an interval above the root',
    { up: number('Up', 'semitones', 1, 36, 10) },
    ({ up }) => `add a note ${up} semitones above the root of each chord of three or more`,
    addInterval,
  ),
  'length-set': action(
    'set the length',
    { to: number('To', 'ms', 1, 10_000, 100) },
    ({ to }) => `make them ${to}\u00a0ms long`,
    ({ song, track, taken }, { to }) => {
      const tempo = tempoOf(song);
      return reshape(NAME, track, taken, ({ start }) => ({ length: tempo.shift(start, to) - start }));
    },
  ),
  'length-scale': action(
    'scale the length',
    { to: number('To', '%', 1, 1000, 80) },
    ({ to }) => `scale their length to ${to}\u00a0%`,
    ({ track, taken }, { to }) => reshape(NAME, track, taken, (t) => ({ length: (t.length * to) / 100 })),
  ),
  stretch: action(
    'stretch the figure',
    { to: number('To', '%', 5, 2000, 200) },
    ({ to }) => `stretch the figure to ${to}\u00a0% of its time`,
    ({ track, taken }, { to }) => stretch(track, taken, to / 100),
  ),
} as const;
export type ActionId = keyof typeof RULE_ACTIONS;

/** Starts go part of the way to the lines that the notes are meant for. */
function quantize({ song, track, taken }: Found, { strength }: { readonly strength: number }): Shaped {
  const at = new Map(track.parts.flatMap((p) => p.notes.map((n, i): [number, number] => [n.id, i])));
  return reshape(NAME, track, taken, ({ part, note, start }) => {
    const index = at.get(note.id);
    if (index === undefined) return null;
    const line = factsOf(part, song).line[index];
    return { start: start + ((line - start) * strength) / 100 };
  });
}

function randomPitches(
  { track, taken, seed }: Found,
  { root, scale, ...of }: Bounds & { readonly root: string; readonly scale: string },
): Shaped {
  const steps: readonly number[] | null = scale === 'chromatic' ? null : SCALES[scale as ScaleName];
  const first = PITCH_NAMES.indexOf(root);
  const all: number[] = [];
  const [low, high] = inOrder(of);
  for (let p = low; p <= high; p++) {
    if (!steps || steps.includes((p - first + 12) % 12)) all.push(p);
  }
  if (all.length === 0) return { problem: `No pitch of ${root} ${scale} lies in that range. Choose a wider one.` };
  return reshape(NAME, track, taken, ({ note }) => ({
    pitch: all[Math.floor(drawn(seed, PROPERTY.pitch, note.id) * all.length)],
  }));
}

/** A note above the root of each chord, as long and as loud as the note that it stands above; none that is there. */
function addInterval({ song, track, taken }: Found, { up }: { readonly up: number }): Edit | EditProblem | null {
  const found = new Map(taken.map((t) => [t.note.id, t]));
  const added: NewNote[] = [];
  for (const part of track.parts) {
    const facts = factsOf(part, song);
    for (let c = 0; c < facts.chords.count; c++) {
      const chord = [...chordOf(facts, facts.chords.notes[facts.chords.first[c]])]
        .flatMap((i) => found.get(part.notes[i].id) ?? [])
        .sort((a, b) => a.note.pitch - b.note.pitch);
      if (chord.length < 3) continue;
      const pitches = chord.map((t) => t.note.pitch);
      const root = chordRoot(pitches);
      const below = chord.find((t) => t.note.pitch % 12 === root) ?? chord[0];
      // A root that nobody plays lies below the lowest note.
      const from = below.note.pitch - ((below.note.pitch - root + 12) % 12);
      const to = from + Math.round(up);
      if (to > 127 || pitches.includes(to)) continue;
      const { start, length, velocity, note } = below;
      added.push({ start, length, velocity, pitch: to, channel: note.channel, release: note.release });
    }
  }
  const done = addNotes(song, track.id, added, NAME);
  return done && ('edit' in done ? done.edit : done);
}
