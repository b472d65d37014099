import { placeInBars, type Bars } from '../beats';
import { meterOf, tempoOf, type SongTimes } from '../song';
import type { Ms, Ticks } from '../time';
import { TICKS, type TickKind, type Ticking } from './score';

/** How the click goes. */
export interface Click {
  /** Ticks a beat: 1 the beats alone. */
  readonly divide: number;
}

/** A click is not struck more often than this: it would be a tone. */
const FASTEST: Ms = 40;
/** More ticks than this are not made: bars of a song that is hours long. */
const MOST = 200_000;

/** The click of a song, from its start to a tick. */
export function clickOf(song: SongTimes, to: Ticks, { divide }: Click): Ticking {
  return collect((add) => {
    const meter = meterOf(song);
    const tempo = tempoOf(song);
    for (let bar = 0, count = 0; bar < to && count < MOST; bar = meter.nextBarStart(bar)) {
      const { beatTicks } = meter.pieceAt(bar);
      const next = meter.nextBarStart(bar);
      const beat = tempo.between(bar, bar + beatTicks);
      const parts = beat / divide >= FASTEST ? divide : 1;
      for (let tick = bar; tick < next && beat >= FASTEST; tick += beatTicks) {
        for (let k = 0; k < parts; k++) {
          const at = tick + (k * beatTicks) / parts;
          if (at < next) add(tempo.toMs(at), k > 0 ? 'part' : tick === bar ? 'bar' : 'beat');
          count++;
        }
      }
    }
  });
}

/** Ticks of some bars before a place, at times below 0 from it, in the tempo and meter there. */
export function countIn(song: SongTimes, from: Ticks, bars: number): Ticking {
  return collect((add) => {
    if (bars === 0) return;
    const { barTicks, beatTicks } = meterOf(song).pieceAt(from);
    const tempo = tempoOf(song);
    const msOf = (ticks: Ticks) => tempo.between(from, from + ticks);
    for (let bar = -bars; bar < 0; bar++) {
      for (let tick = 0; tick < barTicks; tick += beatTicks) {
        add(msOf(bar * barTicks + tick + bars * barTicks) - msOf(bars * barTicks), tick === 0 ? 'bar' : 'beat');
      }
    }
  });
}

/** A tick for each line that notes were meant on. @param lines in ticks */
export function lineTicks(lines: Iterable<Ticks>, song: SongTimes): Ticking {
  return collect((add) => {
    const tempo = tempoOf(song);
    for (const line of [...new Set(lines)].sort((a, b) => a - b)) if (line >= 0) add(tempo.toMs(line), 'line');
  });
}

/**
 * A click on beats that were found, wherever they lie.
 * @param beats in ms, ascending @param downbeat index of one that begins a bar @param perBar beats a bar
 */
export function clickOn(beats: ArrayLike<Ms>, bars: Bars): Ticking {
  return collect((add) => {
    for (let i = 0; i < beats.length; i++) {
      if (beats[i] >= 0) add(beats[i], placeInBars(bars, i).beat === 0 ? 'bar' : 'beat');
    }
  });
}

/** Some ticks together, in order. */
export function together(all: readonly Ticking[]): Ticking {
  return collect((add) => {
    const merged = all.flatMap(({ at, kind }) => [...at].map((ms, i) => ({ ms, kind: kind[i] })));
    merged.sort((a, b) => a.ms - b.ms || a.kind - b.kind);
    for (const { ms, kind } of merged) add(ms, TICKS[kind]);
  });
}

function collect(each: (add: (ms: Ms, kind: TickKind) => void) => void): Ticking {
  const at: number[] = [];
  const kind: number[] = [];
  each((ms, k) => {
    at.push(ms);
    kind.push(TICKS.indexOf(k));
  });
  return { at: Float64Array.from(at), kind: Uint8Array.from(kind) };
}
