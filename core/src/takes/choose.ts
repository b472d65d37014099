import type { Ms, Ticks } from '../time';
import { voiceOf } from '../treatment';
import type { TakeCell, TakeTable } from './compare';

/** Which take is proposed for a section, and what is known about it. */
export interface Choice {
  /** Index of the take; null where no take was played. */
  readonly take: number | null;
  /** Others that are as good as it, as far as can be told. */
  readonly equal: readonly number[];
  /** The one that is better by itself, but cannot be joined here: a note sounds across; null for none. */
  readonly kept: number | null;
}

/** A fault weighs as much as so many ms of miss: timing can be corrected, a wrong note cannot. */
const FAULT: Ms = 60;
/** No section's timing weighs more than this, so that a fault weighs more than any timing. */
const MOST_MISS: Ms = 59;
/** Of velocity: 10 steps off on the average are worth a ms. */
const UNEVEN: Ms = 0.1;
/** What a join costs: of two that are as good the one that goes on is taken. */
const JOIN: Ms = 1;
/** Takes that are no further apart than this are as good as each other. */
const EQUAL: Ms = 2;
/** A join at which a note sounds across costs more than anything that it can gain. */
const TORN: Ms = 1e6;

/** What speaks against a take in a section, in ms of miss. */
export function costOf({ missMs, missed, wrong, extra, uneven }: TakeCell): Ms {
  return Math.min(MOST_MISS, missMs ?? 0) + FAULT * (missed + wrong + extra) + UNEVEN * (uneven ?? 0);
}

/** Whether two takes are as good as each other in a section, as far as so many notes can tell. */
function areEqual(a: TakeCell, b: TakeCell): boolean {
  const faults = (c: TakeCell) => c.missed + c.wrong + c.extra;
  if (faults(a) !== faults(b)) return false;
  return Math.abs(costOf(a) - costOf(b)) < Math.max(EQUAL, Math.hypot(a.doubtMs, b.doubtMs));
}

/**
 * The best take of each section, all decided together: takes are joined only where nothing sounds across, and of those
 * that are as good the one before goes on.
 */
export function proposeTakes(table: TakeTable): Choice[] {
  const { sections, cells, takes } = table;
  const joins = joinsOf(table);
  // cost[k]: of the best way that ends with take k; back: the take before it.
  let cost = takes.map(() => 0);
  const back: number[][] = [];
  for (let s = 0; s < sections.length; s++) {
    const nobody = cells.every((row) => row[s] === null);
    const from = takes.map((_, k) => bestBefore(cost, k, (a) => (joins.isClean(s, a, k) ? JOIN : TORN)));
    back.push(from.map((f) => f.take));
    cost = from.map((f, k) => {
      const cell = cells[k][s];
      return f.cost + (cell ? costOf(cell) : nobody ? 0 : TORN * 10);
    });
  }
  const way = new Array<number>(sections.length);
  let k = cost.indexOf(Math.min(...cost));
  for (let s = sections.length - 1; s >= 0; s--) {
    way[s] = k;
    k = back[s][k];
  }
  return way.map((take, s) => choiceAt(cells, take, s));
}

function bestBefore(
  cost: readonly number[],
  k: number,
  step: (from: number) => number,
): { take: number; cost: number } {
  let best = { take: k, cost: cost[k] };
  cost.forEach((c, a) => {
    // A way that has cost as much gets no cheaper by a join.
    if (a === k || c >= best.cost) return;
    const whole = c + step(a);
    if (whole < best.cost) best = { take: a, cost: whole };
  });
  return best;
}

function choiceAt(cells: TakeTable['cells'], take: number, s: number): Choice {
  const own = cells[take][s];
  if (!own) return { take: null, equal: [], kept: null };
  const others = cells.flatMap((row, k) => (k !== take && row[s] ? [{ k, cell: row[s] }] : []));
  const equal = others.filter(({ cell }) => areEqual(own, cell)).map(({ k }) => k);
  const better = others.filter(({ k, cell }) => !equal.includes(k) && costOf(cell) + 2 * JOIN < costOf(own));
  const best = better.sort((a, b) => costOf(a.cell) - costOf(b.cell)).at(0);
  return { take, equal, kept: best?.k ?? null };
}

/** Where takes can be joined. */
interface Joins {
  /** Whether take `a` can go over into take `b` at the beginning of section `s`: nothing sounds across, nothing meets. */
  isClean(s: number, a: number, b: number): boolean;
}

/** A note that ends within this share of a gap after the border does not sound across: players let go a little late. */
const LATE_SHARE = 0.5;

function joinsOf({ sections, takes, sectionOf }: TakeTable): Joins {
  const rings = takes.map(({ content }, k) => {
    const across = new Uint8Array(sections.length + 1);
    content.notes.forEach((n, i) => {
      for (let s = sectionOf[k][i] + 1; s < sections.length; s++) {
        const { from, gap } = sections[s];
        if (n.start + n.length <= from + LATE_SHARE * gap) break;
        across[s] = 1;
      }
    });
    return across;
  });
  return {
    isClean: (s, a, b) =>
      rings[a][s] === 0 &&
      rings[b][s] === 0 &&
      !meets(takes[a].content.notes, sectionOf[a], takes[b].content.notes, sectionOf[b], s),
  };
}

interface Sounding {
  readonly start: Ticks;
  readonly length: Ticks;
  readonly pitch: number;
  readonly channel: number;
}

/** Whether a note of the left side still sounds, or comes later, where one of its pitch begins on the right. */
function meets(
  left: readonly Sounding[],
  leftOf: Int32Array,
  right: readonly Sounding[],
  rightOf: Int32Array,
  s: number,
): boolean {
  const first = new Map<number, Ticks>();
  right.forEach((n, i) => {
    const voice = voiceOf(n.channel, n.pitch);
    if (rightOf[i] === s) first.set(voice, Math.min(n.start, first.get(voice) ?? Infinity));
  });
  return left.some(
    (n, i) => leftOf[i] === s - 1 && n.start + n.length > (first.get(voiceOf(n.channel, n.pitch)) ?? Infinity),
  );
}
