import type { SongTime } from '../grid';
import { sameEach } from '../maths';
import type { Follower } from './follower';
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

/**
 * Remembers what is computed from a value that is never changed, under a song's tempo and meter and its follower: the
 * same object again for as long as all of them stay.
 * @param compute may depend on nothing of the song but these, and what `also` gives
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
    const fresh = found && (lasting || found.follower === song.follower) && sameTime(found.time, time);
    if (fresh && sameEach(found.others, others)) return found.value;
    const value = compute(key, song, time);
    known.set(key, { time, follower: song.follower, others, value });
    return value;
  };
}

export interface PerTimeOptions<K, S> {
  /** It stays under another follower: it depends on none. */
  readonly lasting?: boolean;
  /** What else it depends on: the same objects for as long as they do not change. */
  readonly also?: (key: K, song: S) => readonly unknown[];
}

interface Known<V> {
  readonly time: SongTime;
  readonly follower: Follower | undefined;
  readonly others: readonly unknown[];
  readonly value: V;
}

const NOTHING: readonly unknown[] = [];
