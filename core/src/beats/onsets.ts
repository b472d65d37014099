import type { Heard } from '../insight';
import { tempoOf, type Part, type SongTimes } from '../song';
import type { Ms } from '../time';

/** Notes that start together. */
export interface Onset extends Heard {
  readonly ms: Ms;
}

/** Notes within this of the first of them start together. */
const TOGETHER: Ms = 30;

/** The onsets of some parts, in time order. */
export function onsetsOf(parts: readonly Part[], song: SongTimes): Onset[] {
  const tempo = tempoOf(song);
  const notes = parts
    .flatMap((p) => (p.muted ? [] : p.notes.filter((n) => !n.muted)))
    .map((n) => ({ ms: tempo.toMs(n.start), velocity: n.velocity, pitch: n.pitch }))
    .sort((a, b) => a.ms - b.ms);
  const onsets: Onset[] = [];
  for (let from = 0, to = 0; from < notes.length; from = to) {
    let [sum, velocity, pitch] = [0, 0, 127];
    while (to < notes.length && notes[to].ms - notes[from].ms <= TOGETHER) {
      sum += notes[to].ms;
      velocity = Math.max(velocity, notes[to].velocity);
      pitch = Math.min(pitch, notes[to].pitch);
      to++;
    }
    onsets.push({ ms: sum / (to - from), notes: to - from, velocity, pitch });
  }
  return onsets;
}
