import { Lines, makePattern, stepTicks, type Grid, type Pattern, type SongTime } from '../grid';
import type { Groove, GrooveUse } from '../song';
import type { MeterMap, MeterPiece } from '../time';

/** Slots of a groove in one of its bars. */
export function slotsPerBar(groove: Groove): number {
  return groove.slots.length / groove.bars;
}

/**
 * The lines of a groove through a song: the straight lines of its note value, each moved by its
 * slot's offset times the timing amount. Where bars are longer or shorter than the groove's,
 * its slots repeat or end with the bar.
 */
export function grooveLines(use: GrooveUse, shift: Grid['shift'], time: SongTime): Lines {
  const { meter, tempo } = time;
  const pieces = meter.pieces.map((piece) => ({
    start: piece.tick,
    end: piece.end,
    pattern: groovePattern(use, piece, meter.ppq),
  }));
  return new Lines(pieces, shift, tempo);
}

function groovePattern({ groove, timing }: GrooveUse, piece: MeterPiece, ppq: number): Pattern {
  const step = stepTicks({ value: groove.value, shape: 'straight' }, ppq);
  const perBar = Math.max(1, Math.ceil(piece.barTicks / step - 1e-9));
  const places: number[] = [];
  // An early first slot belongs to the end of the cycle, where the bar before it is heard.
  const period = piece.barTicks * groove.bars;
  for (let bar = 0; bar < groove.bars; bar++) {
    for (let k = 0; k < perBar; k++) {
      const offset = slotAt(groove, bar, k).offset * timing * step;
      const at = bar * piece.barTicks + k * step + offset;
      places.push(((at % period) + period) % period);
    }
  }
  return makePattern(period, places);
}

function slotAt(groove: Groove, bar: number, k: number) {
  const perBar = slotsPerBar(groove);
  return groove.slots[(bar % groove.bars) * perBar + (k % perBar)];
}

/** The loudness of a groove at a line, as a ratio to its mean. */
export function grooveVelocityAt(groove: Groove, line: number, meter: MeterMap): number {
  const piece = meter.pieceAt(line);
  const step = stepTicks({ value: groove.value, shape: 'straight' }, meter.ppq);
  const bars = Math.floor((line - piece.tick) / piece.barTicks);
  const inBar = line - piece.tick - bars * piece.barTicks;
  const perBar = Math.max(1, Math.ceil(piece.barTicks / step - 1e-9));
  const k = Math.round(inBar / step);
  return k >= perBar ? slotAt(groove, bars + 1, 0).velocity : slotAt(groove, bars, k).velocity;
}
