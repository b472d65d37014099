import type { Lines } from '../grid';
import { median } from '../maths';
import { timeOf, type Content, type Part, type Song } from '../song';
import type { Ms, TempoMap, Ticks } from '../time';
import { factsOf } from '../treatment';

/** A take's notes as they lie against the part's lines. A row a note, in the order of the take. */
export interface TakeNotes {
  readonly id: string;
  readonly name: string;
  readonly content: Content;
  /** The take's own lag: what is measured is measured after it is removed. */
  readonly lagMs: Ms;
  readonly line: Float64Array;
  /** Offset from the line in ms, without the lag; early is negative. */
  readonly off: Float64Array;
}

/** A take to be compared. */
export type Compared = Pick<TakeNotes, 'id' | 'name' | 'content'>;

/** Lags are looked for this far to either side. */
const FURTHEST: Ms = 70;
/** The takes of one part were recorded in the same way: their lags differ by less than this. */
const APART: Ms = 30;
/** So many places tell a lag. */
const ENOUGH = 600;
/** What a lag costs against a smaller one, in ms of miss a ms of lag: of two that explain as much it is the smaller. */
const PULL = 0.02;

/**
 * Measures takes against the lines of their part, each after its own lag: the lag that all share is found first, then what
 * each adds to it, so that no take is measured a line off from the others.
 * @param part with the lines that its treatment has, whether or not it is on
 */
export function measureTakes(part: Part, takes: readonly Compared[], song: Song): TakeNotes[] {
  const { tempo } = timeOf(song);
  const { lines } = factsOf(asTake(part, part, 0), song);
  const starts = takes.map(({ content }) => content.notes.map((n) => (n.take ?? n).start));
  const shared = lagNear(starts.flat(), lines, tempo, 0, FURTHEST);
  return takes.map(({ id, name, content }, k) => {
    const near = lagNear(starts[k], lines, tempo, shared, APART);
    const coarse = factsOf(asTake(part, content, near), song);
    const rest = coarse.before.length > 0 ? median(coarse.before) : near;
    // Half a gap off it would be another line's.
    const lagMs = Math.abs(rest - near) < APART ? rest : near;
    const { line, before } = factsOf(asTake(part, content, lagMs), song);
    return { id, name, content, lagMs, line, off: before.map((ms) => ms - lagMs) };
  });
}

/** The part with a take's notes, on its nearest lines once a lag is removed. Nobody waits for a worker to compare takes. */
function asTake(part: Part, { notes, events }: Content, lagMs: Ms): Part {
  const { treatment } = part;
  const quantize = { ...treatment.quantize, on: true, lines: 'nearest' as const };
  const lag = { on: lagMs !== 0, amount: { value: lagMs, unit: 'ms' as const } };
  return { ...part, notes, events, treatment: { ...treatment, lag, quantize } };
}

/** The lag within `reach` of `near` at which places lie nearest to lines, in whole ms. */
function lagNear(places: readonly Ticks[], lines: Lines, tempo: TempoMap, near: Ms, reach: Ms): Ms {
  const every = Math.max(1, Math.ceil(places.length / ENOUGH));
  const some = places.filter((_, i) => i % every === 0);
  let best = { cost: Infinity, lag: near };
  for (let by = -reach; by <= reach; by++) {
    const lag = Math.round(near) + by;
    let miss = 0;
    for (const tick of some) {
      const at = tempo.shift(tick, -lag);
      miss += Math.abs(tempo.between(lines.nearest(at), at));
    }
    const cost = miss / Math.max(1, some.length) + PULL * Math.abs(by) + PULL * Math.abs(lag);
    if (cost < best.cost) best = { cost, lag };
  }
  return best.lag;
}
