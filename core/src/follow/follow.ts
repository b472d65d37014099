import { barPattern, stepTicks, type Grid, type Lines, type SongTime } from '../grid';
import type { Ms } from '../time';
import { openAxis } from './axis';
import { circleOf } from './circle';
import { LAG_SD, MOST_LAG, type PlayerModel, type Progress } from './model';
import { bestEvidence, offsetsFrom, smoothPath, type Evidence } from './residuals';
import { decodeReturning } from './returning';
import { ReturningFit, takeSample, type Returning } from './returning-fit';
import { sampleBlocks } from './sample';
import { cycleTicks, decodeWalk } from './walk';
import { fitWalk } from './walk-fit';
import { realigned } from './realign';
import { Rhythm } from './rhythm';

/** Lines that were chosen while following a player, and what they say about the playing. */
export interface Followed {
  /** Line of each chord in ticks. */
  readonly line: Float64Array;
  /** Where the player's time was at each chord, lag and drift together; early is negative. */
  readonly drift: Float64Array;
  /** How far each chord is from where the other chords put the player's time, in ms; early is negative. */
  readonly apart: Float64Array;
  /** The middle of the drift. */
  readonly lag: Ms;
  /** Nine in ten chords' time is no further from the lag than this; 0 for steady playing. */
  readonly wander: Ms;
  /** Whether the wandering is more than a player's own unevenness, of which a part comes and goes slowly too. */
  readonly drifting: boolean;
  readonly model: PlayerModel;
  /** How well it explains the offsets from its lines: log density with the step as the unit, in nats. */
  readonly nats: number;
  /** Length of a step, typically. */
  readonly stepMs: Ms;
}

/** Chords that the fits look at; they are taken in blocks from all over the take. */
const SAMPLE = 500;
/** Explanations that are this much less likely at first sight may still win, in nats. */
const WORTH_A_LOOK = 8;
/** What a lag has to earn before lines are counted from it, in nats. */
const AGAINST_LAG = 6;
/** Cycles that a path may be moved by: which one is meant is not heard. */
const TURNS = [-1, 0, 1];

/**
 * Chooses the lines of all chords together, so that a player's drift against the click does not put whole bars on
 * the wrong lines. Lag and drift are found as one: a player hears the click and comes back to it, so that the drift
 * wanders around a middle, which is the lag; a mere random walk stands beside it for drifts that go further. σ, the
 * drift and the lag are fitted from the chords first, and each way to explain them gives its lines. At the end all of
 * them, the nearest lines among them, are held against the offsets that they leave, and the likeliest is taken:
 * where steady playing explains as well, that is the nearest line. Lines never go back.
 * (After Cemgil & Kappen 2003, JAIR 18, and Desain & Honing 1989, Computer Music Journal 13:3.)
 * @param place chords' places in ticks, ascending
 * @param lagTaken whether the player's lag was taken away before: then of readings that are whole cycles apart that
 *   counts whose middle is near the lines
 */
export function followLines(
  place: Float64Array,
  lines: Lines,
  time: SongTime,
  grid: Grid,
  progress?: Progress,
  lagTaken = false,
): Followed {
  const found = followAnywhere(place, lines, time, grid, progress);
  if (!lagTaken || place.length < 2) return found;
  const plausible = ({ nats, lag }: Followed) => nats - lag ** 2 / (2 * LEFT_SD ** 2);
  return TURNS_LEFT.map((by) => followBeside(found, by, place, lines, time, grid)).reduce(
    (best, other) => (plausible(other) > plausible(best) ? other : best),
    found,
  );
}

/** What is left of a lag that was taken away has this standard deviation. */
const LEFT_SD: Ms = 30;
const TURNS_LEFT = [-2, -1, 1, 2];

function followAnywhere(place: Float64Array, lines: Lines, time: SongTime, grid: Grid, progress?: Progress): Followed {
  const unit = stepTicks({ value: grid.value, shape: 'straight' }, time.meter.ppq);
  const stepMs = typicalStepMs(place, unit, time);
  const cycle = cycleTicks(grid, time);
  const linesIn = (barTicks: number) => barPattern(grid, barTicks, time.meter.ppq).lines.length;
  const rhythm = new Rhythm(time.meter, linesIn);
  const find = new Finder(place, lines, time, unit, stepMs);
  const nearest = find.nearest(0);
  if (place.length < 2) return find.told(nearest, find.evidence(nearest));
  const blocks = sampleBlocks(place.length, SAMPLE);
  const lagSpread = LAG_SD / stepMs;
  const axis = openAxis(MOST_LAG / stepMs);
  const fit = new ReturningFit(takeSample(blocks, axis, place, lines, unit, cycle), lagSpread);
  const steady = fit.steady();
  progress?.(0.1);
  const returning = fit.returning();
  progress?.(0.4);
  const circles = blocks.map(([from, to]) => circleOf(place.subarray(from, to), lines, unit, cycle / unit));
  const walk = fitWalk(circles, Math.max(steady.nats, returning.nats) - 2 * WORTH_A_LOOK);
  progress?.(0.5);

  const likely = Math.max(steady.nats, returning.nats, walk.nats) - WORTH_A_LOOK;
  find.try(nearest, AGAINST_LAG);
  find.try(find.nearest(steady.lag));
  if (returning.nats >= likely) {
    find.try(find.nearest(returning.lag));
    const told = (share: number) => progress?.(0.5 + share * 0.3);
    find.tryTurns(decodeReturning(returning, axis, place, lines, unit, cycle, told), cycle);
  }
  if (walk.nats >= likely) {
    const circle = circleOf(place, lines, unit, cycle / unit);
    find.tryTurns(
      decodeWalk(circle, walk, place, lines, unit, (share) => progress?.(0.8 + share * 0.2)),
      cycle,
    );
  }
  find.refine(find.best().drift);
  for (let round = 0; round < RHYTHM_ROUNDS; round++) {
    if (find.isSteady()) break;
    const moved = find.realign(cycle, rhythm);
    const before = find.best();
    const costs = rhythm.costs(before.line);
    const gains = [-cycle, cycle].map((by) => rhythm.gain(before.line, by, costs));
    if (!moved && Math.max(...gains) < WORTH_MENDING) break;
    // Along the path that was found: where it slipped by a line, the rhythm of the rest draws it back.
    const straight = place.map((t, i) => time.tempo.shift(t, -before.drift[i]));
    const beside = decodeReturning(besidePath(before), axis, straight, lines, unit, cycle, SILENT, costs);
    let slipped = find.slipped(beside, rhythm);
    if (returning.nats >= likely) {
      const again = decodeReturning(returning, axis, place, lines, unit, cycle, SILENT, costs);
      slipped = find.slipped(again, rhythm) || slipped;
    }
    if (!slipped && !moved) break;
  }
  // Each step so far moved the lines a little: all of it may lie a cycle beside what explains it best by now.
  find.tryTurns(find.best().line, cycle);
  return find.best();
}

/** Only where the rhythm would gain as much is a slip looked for, in nats: that takes as long as finding the path. */
const WORTH_MENDING = 4;
const SILENT = (): void => undefined;
/** Slips are looked for so often: what is put right makes the rhythm clearer. */
const RHYTHM_ROUNDS = 3;

/** How a player's time lies beside a path that was found for it: a line away now and then, where the path slipped. */
function besidePath({ model: { sigma } }: Followed): Returning {
  return { sigma: Math.max(LEAST_BESIDE, sigma), spread: 0.45, pull: 0.02, lag: 0, nats: 0 };
}

const LEAST_BESIDE = 0.04;

/** A player drifts who wanders so many times as far as single chords lie from the wandering time. */
const DRIFTS_FROM = 1.3;

/** Lines are found and the path found anew so often. */
const ROUNDS = 3;

/**
 * The lines nearest to a player's time that was found on another grid, and what they say about the playing.
 * @param drifts in ms at each chord, lag included; the one that explains best counts
 */
export function followAlong(
  place: Float64Array,
  lines: Lines,
  time: SongTime,
  grid: Grid,
  drifts: readonly Float64Array[],
): Followed {
  const unit = stepTicks({ value: grid.value, shape: 'straight' }, time.meter.ppq);
  const find = new Finder(place, lines, time, unit, typicalStepMs(place, unit, time));
  find.try(find.nearest(0));
  for (const drift of drifts) find.refine(drift);
  return find.best();
}

/**
 * The same reading some cycles of the lines earlier or later: what the take would be if all of it was meant there.
 */
export function followBeside(
  { line }: Followed,
  by: number,
  place: Float64Array,
  lines: Lines,
  time: SongTime,
  grid: Grid,
): Followed {
  const unit = stepTicks({ value: grid.value, shape: 'straight' }, time.meter.ppq);
  const find = new Finder(place, lines, time, unit, typicalStepMs(place, unit, time));
  find.try(line.map((l) => lines.nearest(Math.max(0, l + by * cycleTicks(grid, time)))));
  return find.best();
}

/** Holds ways to explain a take against each other. */
class Finder {
  private found: { line: Float64Array; evidence: Evidence; nats: number } | null = null;
  /** Ways that were weighed: several of them often choose the same lines. */
  private readonly weighed: { line: Float64Array; evidence: Evidence }[] = [];

  constructor(
    private readonly place: Float64Array,
    private readonly lines: Lines,
    private readonly time: SongTime,
    private readonly unit: number,
    private readonly stepMs: Ms,
  ) {}

  /** The nearest lines once a lag, in steps, is taken away. */
  nearest(lag: number): Float64Array {
    return this.place.map((t) => this.lines.nearest(Math.max(0, t - lag * this.unit)));
  }

  try(line: Float64Array, bonus = 0): Evidence {
    const evidence = this.evidence(line);
    const nats = evidence.nats + bonus;
    if (!this.found || nats > this.found.nats) this.found = { line, evidence, nats };
    return evidence;
  }

  /** Some lines, and the same a cycle of the grid before and after. @param cycle in ticks */
  tryTurns(line: Float64Array, cycle: number): void {
    for (const turn of TURNS) {
      this.try(turn === 0 ? line : line.map((l) => this.lines.nearest(Math.max(0, l + turn * cycle))));
    }
  }

  /** The lines nearest to a path in ms, then those nearest to the path that these tell of, and so on. */
  refine(drift: Float64Array): void {
    let path = drift;
    for (let round = 0; round < ROUNDS; round++) {
      const line = this.place.map((t, i) => this.lines.nearest(Math.max(0, this.time.tempo.shift(t, -path[i]))));
      const evidence = this.try(line);
      if (round + 1 < ROUNDS) path = this.told(line, evidence).drift;
    }
  }

  /** Whether steady playing explains it best so far. */
  isSteady(): boolean {
    return this.found!.evidence.model.wander.kind === 'steady';
  }

  /**
   * As {@link takeIfBetter}, for a take that may have slipped. Where most of its lines are other ones it did not: the rhythm does
   * not tell which of two turns is meant.
   */
  slipped(line: Float64Array, rhythm: Rhythm): boolean {
    const before = this.found!.line;
    const moved = line.reduce((n, l, i) => n + (l === before[i] ? 0 : 1), 0);
    return moved <= line.length / 2 && this.takeIfBetter(line, rhythm);
  }

  /** Takes other lines where offsets and rhythm together tell of them, and says whether it did. */
  private takeIfBetter(line: Float64Array, rhythm: Rhythm): boolean {
    const before = this.found!;
    const evidence = this.evidence(line);
    const gain = evidence.nats - before.evidence.nats - rhythm.nats(line) + rhythm.nats(before.line);
    if (gain <= 0) return false;
    this.found = { line, evidence, nats: evidence.nats };
    return true;
  }

  /** Moves stretches of the take by whole cycles where its rhythm comes again more clearly then; says whether it did. */
  realign(cycle: number, rhythm: Rhythm): boolean {
    const { place, lines, unit } = this;
    const { line, evidence } = this.found!;
    const other = realigned({ place, line, lines, cycle, unit, sigma: evidence.model.sigma }, rhythm);
    return other !== null && this.takeIfBetter(other, rhythm);
  }

  best(): Followed {
    const { line, evidence } = this.found!;
    return this.told(line, evidence);
  }

  evidence(line: Float64Array): Evidence {
    const known = this.weighed.find((w) => w.line.every((l, i) => l === line[i]));
    if (known) return known.evidence;
    const evidence = bestEvidence(this.offsets(line));
    this.weighed.push({ line, evidence });
    return evidence;
  }

  told(line: Float64Array, { model, nats }: Evidence): Followed {
    const { place, unit, stepMs } = this;
    const { tempo } = this.time;
    if (place.length === 0) {
      return { line, drift: line, apart: line, lag: 0, wander: 0, drifting: false, model, nats: 0, stepMs };
    }
    const path = smoothPath(this.offsets(line), model);
    const inMs = (steps: number, i: number) => tempo.between(place[i] - steps * unit, place[i]);
    const drift = path.drift.map(inMs);
    const lag = path.lag * stepMs;
    const away = drift.map((ms) => Math.abs(ms - lag)).sort();
    const wander = model.wander.kind === 'steady' ? 0 : away[Math.floor(0.9 * (away.length - 1))];
    const drifting = wander > DRIFTS_FROM * model.sigma * stepMs;
    return { line, drift, apart: path.apart.map(inMs), lag, wander, drifting, model, nats, stepMs };
  }

  private offsets(line: Float64Array) {
    return offsetsFrom(this.place, line, this.unit, this.stepMs);
  }
}

/** Length of a step through a take, on the average of its tempi. @param unit ticks a step */
export function typicalStepMs(place: Float64Array, unit: number, { tempo }: SongTime): Ms {
  if (place.length === 0) return tempo.between(0, unit);
  const [first, last] = [place[0], place[place.length - 1]];
  return last > first ? (tempo.between(first, last) * unit) / (last - first) : tempo.between(first, first + unit);
}
