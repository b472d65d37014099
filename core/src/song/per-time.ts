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
 * @param compute may depend on nothing of the song but its tempo and meter
 * @param lasting it stays through {@link outdate}: it depends on no answer that may come later
 */
export function perTime<K extends object, V, S extends SongTimes = SongTimes>(
  compute: (key: K, song: S, time: SongTime) => V,
  lasting = false,
): (key: K, song: S) => V {
  const known = new WeakMap<K, { readonly time: SongTime; readonly age: number; readonly value: V }>();
  return (key, song) => {
    const time = timeOf(song);
    const found = known.get(key);
    if (found && (lasting || found.age === age) && sameTime(found.time, time)) return found.value;
    const value = compute(key, song, time);
    known.set(key, { time, age, value });
    return value;
  };
}
