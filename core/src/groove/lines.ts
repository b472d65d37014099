import { Kept, orderOf, picked } from '../maths';
import { Lines, makePattern, stepTicks, type Grid, type Pattern, type SongTime } from '../grid';
import type { Groove, GrooveUse, Slot } from '../song';
import { amountInTicks, pieceAt, type MeterPiece, type Ticks } from '../time';

/** Slots of a groove in one of its bars; less than one where a slot lasts several bars. */
export function slotsPerBar(groove: Groove): number {
  return groove.slots.length / groove.bars;
}

/** A groove's slots through one cycle of bars of one length, in order of where they lie. */
interface Cycle {
  readonly period: Ticks;
  readonly places: Float64Array;
  readonly velocities: Float64Array;
  /** Its places as lines. */
  readonly pattern: Pattern;
}

/** By timing, length of the bar and resolution: every treatment with a groove asks for them, most of them for the same. */
const cycles = new Kept<Groove, string, Cycle>();

/**
 * The lines of a groove through a song: the straight lines of its note value, each moved by its
 * slot's offset times the timing amount. Where bars are longer or shorter than the groove's,
 * its slots repeat or end with the bar.
 */
export function grooveLines(use: GrooveUse, shift: Grid['shift'], { meter, tempo }: SongTime): Lines {
  const pieces = meter.pieces.map(({ tick, end, barTicks }) => {
    return { start: tick, end, pattern: cycleOf(use, barTicks, meter.ppq).pattern };
  });
  return new Lines(pieces, shift, tempo);
}

/** The loudness of a groove at each of its lines, as a ratio to its mean. */
export function grooveVelocities(use: GrooveUse, shift: Grid['shift'], time: SongTime): (line: Ticks) => number {
  const { meter, tempo } = time;
  const cycle = perBar(({ barTicks }) => cycleOf(use, barTicks, meter.ppq));
  return (line) => {
    const at = line - amountInTicks(shift, line, tempo);
    const piece = meter.pieceAt(at);
    const { period, places, velocities } = cycle(piece);
    const inCycle = (((at - piece.tick) % period) + period) % period;
    const before = pieceAt(places, inCycle);
    // The slot is the nearest one, around the cycle: lines may lie more than half a step off their straight places.
    const candidates = [before, (before + 1) % places.length, places.length - 1, 0];
    const away = (k: number) => {
      const d = Math.abs(places[k] - inCycle);
      return Math.min(d, period - d);
    };
    return velocities[candidates.reduce((best, k) => (away(k) < away(best) ? k : best))];
  };
}

/** Builds something once for each length of bar. */
function perBar<T>(build: (piece: MeterPiece) => T): (piece: MeterPiece) => T {
  const known = new Map<Ticks, T>();
  return (piece) => {
    let found = known.get(piece.barTicks);
    if (found === undefined) known.set(piece.barTicks, (found = build(piece)));
    return found;
  };
}

function cycleOf(use: GrooveUse, barTicks: Ticks, ppq: number): Cycle {
  return cycles.of(use.groove, `${use.timing} ${barTicks} ${ppq}`, () => makeCycle(use, barTicks, ppq));
}

function makeCycle({ groove, timing }: GrooveUse, barTicks: Ticks, ppq: number): Cycle {
  const step = stepTicks({ value: groove.value, shape: 'straight' }, ppq);
  const perBar = Math.max(1, Math.ceil(barTicks / step - 1e-9));
  // An early first slot belongs to the end of the cycle, where the bar before it is heard.
  const period = barTicks * groove.bars;
  const places = new Float64Array(groove.bars * perBar);
  const velocities = new Float64Array(places.length);
  for (let bar = 0; bar < groove.bars; bar++) {
    for (let k = 0; k < perBar; k++) {
      const { offset, velocity } = slotAt(groove, bar, k);
      const at = bar * barTicks + k * step + offset * timing * step;
      places[bar * perBar + k] = ((at % period) + period) % period;
      velocities[bar * perBar + k] = velocity;
    }
  }
  const order = orderOf(places);
  const sorted = picked(places, order);
  return { period, places: sorted, velocities: picked(velocities, order), pattern: makePattern(period, sorted) };
}

/** The slot of a step of a bar. A groove with fewer slots than bars has one for several bars. */
function slotAt(groove: Groove, bar: number, k: number): Slot {
  const perBar = slotsPerBar(groove);
  const first = Math.floor((bar % groove.bars) * perBar);
  return groove.slots[first + (k % Math.max(1, Math.floor(perBar)))];
}
