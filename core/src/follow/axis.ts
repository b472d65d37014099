import type { Lines } from '../grid';

/** Bins a step. */
const FINE = 24;
/** How far a drift may go from its middle, in steps. */
const BEYOND = 1.25;
/** Lags further than this many steps are not told from smaller ones. */
const MOST_LAG_STEPS = 1.75;

/** Drifts that a player who comes back to the click may have: an axis with two ends. All in steps. */
export interface Axis {
  readonly bins: number;
  readonly width: number;
  /** Drift of the first bin. */
  readonly low: number;
  /** Furthest middle. */
  readonly mostLag: number;
}

/** @param mostLag furthest lag in steps */
export function openAxis(mostLag: number): Axis {
  const most = Math.min(MOST_LAG_STEPS, mostLag);
  const half = Math.ceil((BEYOND + most) * FINE);
  return { bins: 2 * half + 1, width: 1 / FINE, low: -half / FINE, mostLag: most };
}

/** How many standard deviations from the middle a returning drift is followed. */
const WITHIN = 4;

/** The part of an axis that a drift with this spread around a lag reaches, and which bin its first was. */
export function partOf(axis: Axis, lag: number, spread: number): { readonly part: Axis; readonly first: number } {
  const bin = (drift: number) => Math.round((drift - axis.low) / axis.width);
  const first = Math.max(0, Math.min(axis.bins - 2, bin(lag - WITHIN * spread)));
  const last = Math.min(axis.bins - 1, Math.max(first + 1, bin(lag + WITHIN * spread)));
  return { part: { ...axis, bins: last - first + 1, low: axis.low + first * axis.width }, first };
}

/** Distances from one chord's place less each drift to the two lines around it, in steps; signed. */
export interface Row {
  readonly near: Float32Array;
  readonly far: Float32Array;
}

/** What it costs to be on these lines, in nats. */
export interface CostRow extends Row {
  readonly nearCost: Float32Array;
  readonly farCost: Float32Array;
}

export function emptyRow({ bins }: Axis): CostRow {
  const column = () => new Float32Array(bins);
  return { near: column(), far: column(), nearCost: column(), farCost: column() };
}

/**
 * Fills a row.
 * @param place in ticks
 * @param unit ticks a step
 * @param cycle ticks in which the lines repeat: there are none before the song's start, where those a cycle later stand in
 * @param costs what each line costs, in nats, where the row is to have it
 */
export function fillRow(
  row: Row | CostRow,
  axis: Axis,
  place: number,
  lines: Lines,
  unit: number,
  cycle: number,
  costs?: (line: number) => number,
): void {
  const { near, far } = row;
  const { bins, width, low } = axis;
  const latest = place - low * unit;
  const earliest = latest - (bins - 1) * width * unit;
  const shift = earliest < cycle ? Math.ceil((cycle - earliest) / cycle) * cycle : 0;
  let before = Infinity;
  let after = -Infinity;
  let [costBefore, costAfter] = [0, 0];
  for (let k = 0; k < bins; k++) {
    const at = latest - k * width * unit + shift;
    if (at < before || at >= after) {
      lines.locate(at);
      ({ before, after } = lines);
      if (costs) [costBefore, costAfter] = [costs(before - shift), costs(after - shift)];
    }
    const below = (before - at) / unit;
    const above = (after - at) / unit;
    const belowIsNearest = -below < above;
    near[k] = belowIsNearest ? below : above;
    far[k] = belowIsNearest ? above : below;
    if (!costs || !('nearCost' in row)) continue;
    row.nearCost[k] = belowIsNearest ? costBefore : costAfter;
    row.farCost[k] = belowIsNearest ? costAfter : costBefore;
  }
}
