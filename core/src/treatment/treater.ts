import { AlignedLines, gridLines, stepTicks, type Lines, type SongTime } from '../grid';
import { grooveLines } from '../groove';
import { sameTime, type Follower, type Quantize, type Treatment } from '../song';
import { addAmount, amountInTicks, type Ticks, type TimeAmount } from '../time';
import { decide, follow, locate, type Assignment, type Located } from './assign';
import type { NoteColumns } from './columns';
import { drawAll, drawsKey, type Draws } from './draws';
import { humanizeLengths, humanizeStarts, humanizeVelocities } from './humanize';
import { connect, endLines, treatLengths } from './lengths';
import { quantizeStarts, remaining, type Times } from './quantize';
import { shapeVelocities } from './velocity';

/** What lines are found by, beside a treatment. */
export interface LineSources {
  /** Chords of the track that the lines go by, in ticks, ascending; null without one. */
  readonly reference?: Float64Array | null;
  readonly follower?: Follower | undefined;
}

/** Stages that move starts. */
export type TimeStage = 'lag' | 'quantize' | 'push' | 'humanize';

/** Notes after stages 1 to 6, before they are settled. */
export interface Staged extends Times {
  /** 1 to 127. */
  readonly velocity: Uint8Array;
  /** Chords with their lines; null where no stage asked for them. */
  readonly chords: Assignment | null;
}

interface Assigned {
  readonly value: Assignment;
  readonly lines: Lines;
}

/** Chords with their lines, and what they were found by. */
interface Found {
  readonly key: string;
  readonly located: Located;
  readonly lines: Lines;
  readonly reference: Float64Array | null;
}

/**
 * The lines that a treatment's starts go to: its groove's, or its grid's.
 * @param reference chords of the track that the lines go by, in ticks, ascending; null without one
 */
export function treatmentLines(
  { grid, groove }: Pick<Quantize, 'grid' | 'groove'>,
  time: SongTime,
  reference: ArrayLike<Ticks> | null = null,
): Lines {
  const lines = groove ? grooveLines(groove, grid.shift, time) : gridLines(grid, time);
  return reference ? new AlignedLines(lines, reference, time.tempo) : lines;
}

/**
 * Runs a treatment over some notes. It remembers chords, lines and random draws, so that a
 * change of strength or of a humanize amount does not find them anew.
 */
export class Treater {
  private found: Found | null = null;
  private assigned: (Assigned & { key: string }) | null = null;
  private last: { treatment: Treatment; chords: Assignment; staged: Staged } | null = null;
  private drawn: { key: string; line: Float64Array; value: Draws } | null = null;

  /** @param like one whose chords, lines and draws hold for these notes too, where they start alike and are the same ones */
  constructor(
    readonly columns: NoteColumns,
    private readonly time: SongTime,
    like: Treater | null = null,
  ) {
    if (!like || !sameTime(like.time, time)) return;
    const { start, voice, id } = like.columns;
    if (columns.start !== start || columns.voice !== voice || columns.id !== id) return;
    ({ found: this.found, assigned: this.assigned, drawn: this.drawn } = like);
  }

  /** Chords and lines under a treatment, whether or not its quantize stage is on. */
  chords(t: Treatment, by: LineSources = {}): Assignment {
    return this.assignment(t, by).value;
  }

  /**
   * Stages 1 to 6.
   * @param watch is shown the times as they are after each stage that is on
   */
  stages(t: Treatment, by: LineSources = {}, watch?: (stage: TimeStage, times: Times) => void): Staged {
    const { columns, time } = this;
    const { quantize, lengths, humanize } = t;
    const shaped = t.velocity.on || (quantize.on && quantize.groove !== null && quantize.groove.velocity > 0);
    const moves = quantize.on && quantize.starts && remaining(quantize.strength, quantize.times) < 1;
    const needsChords = moves || lengths.on || humanize.on || (shaped && quantize.on);
    const { value: chords, lines } = needsChords ? this.assignment(t, by) : { value: null, lines: null };
    const times: Times = { start: columns.start.slice(), end: columns.end.slice() };

    if (t.lag.on) {
      shiftAll(times, { ...t.lag.amount, value: -t.lag.amount.value }, time);
      watch?.('lag', times);
    }
    if (moves && chords) {
      quantizeStarts(times, chords, quantize, lengths.on && lengths.keep === 'end', time.tempo);
      watch?.('quantize', times);
    }
    if (lengths.on && lines) {
      const ends = endLines(lengths, quantize.grid, lines, time);
      treatLengths(columns, times, lengths, quantize.grid, ends, time.meter.ppq);
    }
    if (t.push.on) {
      shiftAll(times, t.push.amount, time);
      watch?.('push', times);
    }
    const draws = humanize.on && chords ? this.draws(t, chords) : null;
    if (draws) {
      humanizeStarts(times, draws, humanize, time.tempo);
      watch?.('humanize', times);
    }
    if (lengths.on && lengths.mode === 'legato' && chords) connect(columns, chords, times, lengths, time);
    if (draws) humanizeLengths(times, draws, humanize, time.tempo);

    let velocity = columns.velocity;
    if (shaped || draws?.velocity) {
      const groove = quantize.on ? quantize.groove : null;
      const loud = shapeVelocities(columns, chords, times.start, t.velocity, groove, quantize.grid.shift, time);
      if (draws) humanizeVelocities(loud, draws, humanize);
      velocity = roundVelocities(loud);
    }
    return { ...times, velocity, chords };
  }

  /**
   * {@link stages}; what it gave before where nothing that it depends on is another. Not to be written into.
   */
  kept(t: Treatment, by: LineSources = {}): Staged {
    const { value: chords } = this.assignment(t, by);
    if (this.last?.treatment !== t || this.last.chords !== chords) {
      this.last = { treatment: t, chords, staged: this.stages(t, by) };
    }
    return this.last.staged;
  }

  private assignment(t: Treatment, by: LineSources): Assigned {
    const found = this.locate(t, by);
    const { direction, tolerance, reach } = t.quantize;
    const key = JSON.stringify([found.key, direction, tolerance, reach]);
    if (this.assigned?.key === key && this.assigned.value.line === found.located.line) return this.assigned;
    const { located, lines } = found;
    this.assigned = { key, lines, value: decide(located, lines, this.time, t.quantize) };
    return this.assigned;
  }

  /** Finds chords and lines, which is what takes time; how far and which notes go does not matter to it. */
  private locate(t: Treatment, { reference = null, follower }: LineSources): Found {
    const { grid, groove, lines: choice, chordMs } = t.quantize;
    const lag = t.lag.on ? t.lag.amount : null;
    const key = JSON.stringify([lag, grid, groove, choice, chordMs]);
    if (this.found?.key === key && this.found.reference === reference) {
      if (!this.found.located.final) this.found = this.again(this.found, t, follower);
      return this.found;
    }
    const lines = treatmentLines(t.quantize, this.time, reference);
    const starts = lag ? this.withoutLag(lag) : this.columns.start;
    const settings = { ...t.quantize, reference, lagTaken: takesLag(t) };
    const located = locate(this.columns, starts, lines, this.time, settings, follower);
    this.found = { key, lines, reference, located };
    this.assigned = null;
    return this.found;
  }

  /** Asks again for lines that were not known; of the same chords, so that the answer is found again. */
  private again(found: Found, t: Treatment, follower: Follower | undefined): Found {
    const { located, lines, reference } = found;
    const settings = { ...t.quantize, reference, lagTaken: takesLag(t) };
    const followed = follow(located.place, lines, this.time, settings, follower);
    if (!followed) return found;
    this.assigned = null;
    return { ...found, located: { ...located, ...followed, final: true } };
  }

  private draws(t: Treatment, chords: Assignment): Draws {
    const key = drawsKey(t.humanize);
    if (this.drawn?.key === key && this.drawn.line === chords.line) return this.drawn.value;
    const step = stepTicks({ value: 16, shape: 'straight' }, this.time.meter.ppq);
    const value = drawAll(this.columns, chords, t.humanize, step);
    this.drawn = { key, line: chords.line, value };
    return value;
  }

  private withoutLag(lag: TimeAmount): Float64Array {
    const { tempo } = this.time;
    const amount = { ...lag, value: -lag.value };
    const start = this.columns.start.slice();
    const ticks = isFixed(amount, this.time) ? amountInTicks(amount, 0, tempo) : null;
    for (let i = 0; i < start.length; i++)
      start[i] = ticks === null ? addAmount(start[i], amount, tempo) : start[i] + ticks;
    return start;
  }
}

/** Whether any stage of a treatment that is on changes velocities. */
export function shapesVelocities({ quantize, velocity, humanize }: Treatment): boolean {
  const groove = quantize.on && quantize.groove !== null && quantize.groove.velocity > 0;
  return groove || velocity.on || (humanize.on && (humanize.velocity > 0 || humanize.velocityMode === 'range'));
}

/** Whether a treatment takes a lag away. */
export function takesLag({ lag }: Treatment): boolean {
  return lag.on && lag.amount.value !== 0;
}

/** Whether an amount is so many ticks anywhere in the song. */
function isFixed({ unit }: TimeAmount, { tempo }: SongTime): boolean {
  return unit === 'ticks' || tempo.constant;
}

/** Moves whole notes by a constant amount of time. */
function shiftAll({ start, end }: Times, amount: TimeAmount, time: SongTime): void {
  if (amount.value === 0) return;
  if (isFixed(amount, time)) {
    const ticks = amountInTicks(amount, 0, time.tempo);
    for (let i = 0; i < start.length; i++) {
      start[i] += ticks;
      end[i] += ticks;
    }
    return;
  }
  for (let i = 0; i < start.length; i++) {
    const moved = addAmount(start[i], amount, time.tempo);
    end[i] += moved - start[i];
    start[i] = moved;
  }
}

function roundVelocities(loud: Float32Array): Uint8Array {
  const velocity = new Uint8Array(loud.length);
  for (let i = 0; i < loud.length; i++) velocity[i] = Math.min(127, Math.max(1, Math.floor(loud[i] + 0.5)));
  return velocity;
}
