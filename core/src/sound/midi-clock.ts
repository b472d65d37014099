import { tempoOf, type SongTimes } from '../song';
import type { Ticks } from '../time';
import { TICKS, type Ticking } from './score';

/** Clocks a quarter note, and a sixteenth, by which places are told (MIDI 1.0 Detailed Specification, song position). */
const PER_QUARTER = 24;
export const PER_SIXTEENTH = 6;
/** No more than these are made: an hour and more. */
const MOST = 200_000;

/** The clocks that go to devices, from the song's start to a tick: `beat` at each sixteenth, `part` between. */
export function midiClock(song: SongTimes, to: Ticks): Ticking {
  const tempo = tempoOf(song);
  const count = Math.min(MOST, Math.ceil((to * PER_QUARTER) / song.ppq));
  const [beat, part] = [TICKS.indexOf('beat'), TICKS.indexOf('part')];
  return {
    at: Float64Array.from({ length: count }, (_, k) => tempo.toMs((k * song.ppq) / PER_QUARTER)),
    kind: Uint8Array.from({ length: count }, (_, k) => (k % PER_SIXTEENTH === 0 ? beat : part)),
  };
}
