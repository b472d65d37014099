import { counted, type Track } from '../song';
import type { TempoMap } from '../time';
import { erase } from './cut';
import { asOne, reshape, type Shaped } from './reshape';
import { inOrderOfPlace, type Taken } from './taken';

/** What is looked for, each with its limit; null does not look for it. */
export interface Tidying {
  /** Notes of one key that begin within so many ms of a louder one. */
  readonly doubles: number | null;
  /** Notes shorter than so many ms. */
  readonly short: number | null;
  /** Notes softer than this velocity. */
  readonly soft: number | null;
  /** Notes more than so many semitones away from all others within two seconds. */
  readonly strays: number | null;
  /** Notes that still sound when the next of their key begins: they end there. */
  readonly overlaps: boolean;
}

/** What would go, by reason: a note that goes for one reason is not counted for the next. */
export interface Found {
  readonly doubles: readonly Taken[];
  readonly short: readonly Taken[];
  readonly soft: readonly Taken[];
  readonly strays: readonly Taken[];
  /** Notes that end earlier, with their new lengths in ticks. */
  readonly overlaps: readonly { readonly taken: Taken; readonly length: number }[];
}

/** How far around a note others count for whether it is a stray, in ms. */
const AROUND_MS = 2000;

/** Looks for what is to be tidied among notes; nothing is changed. */
export function findUntidy(taken: readonly Taken[], wish: Tidying, tempo: TempoMap): Found {
  const all = inOrderOfPlace(taken);
  const gone = new Set<Taken>();
  const pick = (list: readonly Taken[]) => {
    const fresh = list.filter((t) => !gone.has(t));
    for (const t of fresh) gone.add(t);
    return fresh;
  };
  const msOf = ({ start, length }: Taken) => tempo.between(start, start + length);
  const doubles = wish.doubles === null ? [] : pick(softerDoubles(all, wish.doubles, tempo));
  const { short: least, soft: softest, strays: furthest } = wish;
  const short = least === null ? [] : pick(all.filter((t) => msOf(t) < least));
  const soft = softest === null ? [] : pick(all.filter((t) => t.velocity < softest));
  const strays =
    furthest === null
      ? []
      : pick(
          findStrays(
            all.filter((t) => !gone.has(t)),
            furthest,
            tempo,
          ),
        );
  const left = all.filter((t) => !gone.has(t));
  return { doubles, short, soft, strays, overlaps: wish.overlaps ? findOverlaps(left) : [] };
}

/** The edit that tidies what was found. */
export function tidy(track: Track, { doubles, short, soft, strays, overlaps }: Found): Shaped {
  const out = [...doubles, ...short, ...soft, ...strays];
  const lengths = new Map(overlaps.map(({ taken, length }) => [taken, length]));
  const name = `Tidy ${counted(out.length + overlaps.length, 'note')}`;
  const cut = reshape(
    name,
    track,
    overlaps.map((o) => o.taken),
    (t) => ({ length: lengths.get(t) ?? t.length }),
  );
  return asOne(name, [cut, erase(track, out)]);
}

const keyOf = ({ note }: Taken) => note.pitch * 16 + note.channel;

function softerDoubles(all: readonly Taken[], within: number, tempo: TempoMap): Taken[] {
  const out: Taken[] = [];
  const last = new Map<number, Taken>();
  for (const one of all) {
    const before = last.get(keyOf(one));
    if (before && tempo.between(before.start, one.start) <= within) {
      const softer = one.velocity > before.velocity ? before : one;
      out.push(softer);
      if (softer === one) continue;
    }
    last.set(keyOf(one), one);
  }
  return out;
}

function findStrays(all: readonly Taken[], furthest: number, tempo: TempoMap): Taken[] {
  let from = 0;
  let to = 0;
  return all.filter((one, i) => {
    while (tempo.between(all[from].start, one.start) > AROUND_MS) from++;
    while (to < all.length && tempo.between(one.start, all[to].start) <= AROUND_MS) to++;
    let others = 0;
    for (let k = from; k < to; k++) {
      if (k === i) continue;
      if (Math.abs(all[k].note.pitch - one.note.pitch) <= furthest) return false;
      others++;
    }
    // A note that is alone is no stray: there is nothing that it strayed from.
    return others > 1;
  });
}

function findOverlaps(all: readonly Taken[]): Found['overlaps'] {
  const last = new Map<number, Taken>();
  const out: { taken: Taken; length: number }[] = [];
  for (const one of all) {
    const before = last.get(keyOf(one));
    if (before && before.start + before.length > one.start && one.start > before.start) {
      out.push({ taken: before, length: one.start - before.start });
    }
    last.set(keyOf(one), one);
  }
  return out;
}
