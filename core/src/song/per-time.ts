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

/**
 * Remembers what is computed from a value that is never changed, under a song's tempo and meter: the same object
 * again for as long as all of them stay.
 * @param compute may depend on nothing of the song but its tempo and meter
 */
export function perTime<K extends object, V, S extends SongTimes = SongTimes>(
  compute: (key: K, song: S, time: SongTime) => V,
): (key: K, song: S) => V {
  const known = new WeakMap<K, { readonly time: SongTime; readonly value: V }>();
  return (key, song) => {
    const time = timeOf(song);
    const found = known.get(key);
    if (found && sameTime(found.time, time)) return found.value;
    const value = compute(key, song, time);
    known.set(key, { time, value });
    return value;
  };
}
