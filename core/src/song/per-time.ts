import type { SongTime } from '../grid';
import { meterOf, tempoOf } from './look';
import type { SongTimes } from './song';

/** Tempo and meter of a song, for the computation. */
export function timeOf(song: SongTimes): SongTime {
  return { tempo: tempoOf(song), meter: meterOf(song) };
}

/** Whether tempo and meter are the same objects. */
export function sameTime(a: SongTime, b: SongTime): boolean {
  return a.tempo === b.tempo && a.meter === b.meter;
}

/** Counts up when an answer came that all that was computed without it has to wait for. */
let age = 0;

/** Makes everything that {@link perTime} remembers be computed anew when it is next asked for. */
export function outdate(): void {
  age++;
}

/**
 * Remembers what is computed from a value that is never changed, under a song's tempo and meter: the same object
 * again for as long as all of them stay.
 * @param compute may depend on nothing of the song but its tempo and meter, and what `also` gives
 */
export function perTime<K extends object, V, S extends SongTimes = SongTimes>(
  compute: (key: K, song: S, time: SongTime) => V,
  { lasting = false, also }: PerTimeOptions<K, S> = {},
): (key: K, song: S) => V {
  const known = new WeakMap<K, Known<V>>();
  return (key, song) => {
    const time = timeOf(song);
    const others = also ? also(key, song) : NOTHING;
    const found = known.get(key);
    const fresh = found && (lasting || found.age === age) && sameTime(found.time, time);
    if (fresh && same(found.others, others)) return found.value;
    const value = compute(key, song, time);
    known.set(key, { time, age, others, value });
    return value;
  };
}

export interface PerTimeOptions<K, S> {
  /** It stays through {@link outdate}: it depends on no answer that may come later. */
  readonly lasting?: boolean;
  /** What else it depends on: the same objects for as long as they do not change. */
  readonly also?: (key: K, song: S) => readonly unknown[];
}

interface Known<V> {
  readonly time: SongTime;
  readonly age: number;
  readonly others: readonly unknown[];
  readonly value: V;
}

const NOTHING: readonly unknown[] = [];

function same(a: readonly unknown[], b: readonly unknown[]): boolean {
  return a.length === b.length && a.every((value, i) => value === b[i]);
}
