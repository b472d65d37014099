import type { Lines, SongTime } from '../grid';
import type { Ms } from '../time';
import type { Followed } from './model';
import { realigned } from './realign';
import { offsetsFrom } from './offsets';
import { smoothPath } from './path';
import { bestEvidence, type Evidence } from './residuals';
import type { Rhythm } from './rhythm';

/** Cycles that a path may be moved by: which one is meant is not heard. */
const TURNS = [-1, 0, 1];
/** Lines are found and the path found anew so often. */
const ROUNDS = 3;

/** A player drifts who wanders so many times as far as single chords lie from the wandering time. */
const DRIFTS_FROM = 1.3;

/** Holds ways to explain a take against each other. */
export class Finder {
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
      this.try(this.turned(line, turn * cycle));
    }
  }

  /** The same lines whole cycles later or earlier. @param by in ticks */
  turned(line: Float64Array, by: number): Float64Array {
    return by === 0 ? line : line.map((l) => this.lines.nearest(Math.max(0, l + by)));
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

  /** The lines that explain it best so far. */
  line(): Float64Array {
    return this.found!.line;
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

  /** Takes of all that were weighed those lines of which offsets and rhythm together tell. */
  byRhythm(rhythm: Rhythm): void {
    // No rhythm is better than one that costs nothing.
    const most = rhythm.nats(this.found!.line);
    for (const { line, evidence } of [...this.weighed]) {
      if (evidence.nats + most > this.found!.evidence.nats) this.slipped(line, rhythm);
    }
  }

  /** Goes on from these lines, whatever explained the take better. */
  goOnFrom(line: Float64Array): void {
    const evidence = this.evidence(line);
    this.found = { line, evidence, nats: evidence.nats };
  }

  /** Other lines, by so many whole cycles that most of them are where they were found. */
  inTurn(line: Float64Array, cycle: number): Float64Array {
    const before = this.found!.line;
    const away = line.map((l, i) => l - before[i]).sort();
    return this.turned(line, -Math.round(away[away.length >> 1] / cycle) * cycle);
  }

  /** Takes other lines where offsets and rhythm together tell of them, and says whether it did. */
  takeIfBetter(line: Float64Array, rhythm: Rhythm): boolean {
    const before = this.found!;
    const evidence = this.evidence(line);
    const gain = evidence.nats - before.evidence.nats - rhythm.nats(line) + rhythm.nats(before.line);
    if (gain <= 0) return false;
    this.found = { line, evidence, nats: evidence.nats };
    return true;
  }

  /** Moves stretches of the take by a line or two where its rhythm comes again more clearly then; says whether it did. */
  realign(rhythm: Rhythm): boolean {
    const { place, lines, unit } = this;
    const { line, evidence } = this.found!;
    const other = realigned({ place, line, lines, unit, sigma: evidence.model.sigma }, rhythm);
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
