import { barPattern, stepTicks, type Grid, type Lines, type SongTime } from '../grid';
import type { Ms } from '../time';
import { openAxis } from './axis';
import { circleOf } from './circle';
import { Finder } from './finder';
import { LAG_SD, MOST_LAG, type Followed, type Progress } from './model';
import { decodeReturning } from './returning';
import { ReturningFit, takeSample, type Returning } from './returning-fit';
import { sampleBlocks } from './sample';
import { cycleTicks, decodeWalk } from './walk';
import { fitWalk } from './walk-fit';
import { lineBeside } from './realign';
import { Rhythm } from './rhythm';

/** Chords that the fits look at; they are taken in blocks from all over the take. */
const SAMPLE = 500;
/** Explanations that are this much less likely at first sight may still win, in nats. */
const WORTH_A_LOOK = 8;
/** What a lag has to earn before lines are counted from it, in nats. */
const AGAINST_LAG = 6;

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
    const told = (share: number) => progress?.(0.5 + share * 0.2);
    find.tryTurns(decodeReturning(returning, axis, place, lines, unit, cycle, told), cycle);
  }
  if (walk.nats >= likely) {
    const circle = circleOf(place, lines, unit, cycle / unit);
    find.tryTurns(
      decodeWalk(circle, walk, place, lines, unit, (share) => progress?.(0.7 + share * 0.1)),
      cycle,
    );
  }
  find.refine(find.best().drift);
  let mended = 0;
  const mending = () => progress?.(Math.min(0.99, 0.8 + 0.02 * mended));
  const decoded = (model: Returning, from: Float64Array, costs?: (line: number) => number) =>
    decodeReturning(model, axis, from, lines, unit, cycle, mending, costs);
  /** What the rhythm would gain at most if some stretch lay a line beside, in nats. */
  const gainOf = (line: Float64Array, costs: (line: number) => number) =>
    Math.max(...[-1, 1].map((by) => rhythm.gain(line, (l) => lineBeside(l, by, lines, unit), costs)));
  /** Rhythms come again: puts right what lies beside. */
  const mend = () => {
    if (find.isSteady()) return;
    find.byRhythm(rhythm);
    for (let round = 0; round < RHYTHM_ROUNDS; round++, mended++) {
      const moved = find.realign(rhythm);
      const costs = rhythm.costs(find.line());
      if (!moved && gainOf(find.line(), costs) < WORTH_MENDING) break;
      const before = find.best();
      // Along the path that was found: where it slipped by a line, the rhythm of the rest draws it back.
      const straight = place.map((t, i) => time.tempo.shift(t, -before.drift[i]));
      let slipped = find.slipped(decoded(besidePath(before), straight, costs), rhythm);
      if (returning.nats >= likely) slipped = find.slipped(decoded(returning, place, costs), rhythm) || slipped;
      if (!slipped && !moved) break;
    }
  };
  const { model, lag } = find.best();
  mend();
  // What was found may be the best of what lies near it only.
  const isBlurred = model.sigma > BLURRED;
  const mayGain = () => gainOf(find.line(), rhythm.costs(find.line())) >= WORTH_A_START;
  const isDoubtful = isBlurred || (!find.isSteady() && place.length <= SHORT && mayGain());
  const starts = isDoubtful ? STARTS : [];
  for (const start of starts) {
    const best = find.line();
    find.goOnFrom(decoded({ ...start, lag: lag / stepMs }, place));
    mend();
    const other = find.line();
    find.goOnFrom(best);
    find.takeIfBetter(find.inTurn(other, cycle), rhythm);
  }
  // Each step so far moved the lines a little: all of it may lie a cycle beside what explains it best by now.
  find.tryTurns(find.line(), cycle);
  return find.best();
}

/**
 * Chords that scatter further than this, in steps, may as well be on other lines: along a time that wanders quickly and
 * wide they may be exact, and only the rhythm tells.
 */
const BLURRED = 0.16;
/** Such times, from which another explanation is looked for as well, … */
const STARTS: readonly Omit<Returning, 'lag'>[] = [
  { sigma: 0.08, spread: 0.45, pull: 0.1, nats: 0 },
  { sigma: 0.08, spread: 0.9, pull: 0.05, nats: 0 },
];
/** … and of takes of so many chords always where the player wanders: it takes as long again. */
const SHORT = 2000;
/** A rhythm that would gain less elsewhere, in nats, has nothing to say. */
const WORTH_A_START = 1;

/** Only where the rhythm would gain as much is a slip looked for, in nats: that takes as long as finding the path. */
const WORTH_MENDING = 4;
/** Slips are looked for so often: what is put right makes the rhythm clearer. */
const RHYTHM_ROUNDS = 3;

/** How a player's time lies beside a path that was found for it: a line away now and then, where the path slipped. */
function besidePath({ model: { sigma } }: Followed): Returning {
  return { sigma: Math.max(LEAST_BESIDE, sigma), spread: 0.45, pull: 0.02, lag: 0, nats: 0 };
}

const LEAST_BESIDE = 0.04;

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
  find.try(find.turned(line, by * cycleTicks(grid, time)));
  return find.best();
}

/** Length of a step through a take, on the average of its tempi. @param unit ticks a step */
export function typicalStepMs(place: Float64Array, unit: number, { tempo }: SongTime): Ms {
  if (place.length === 0) return tempo.between(0, unit);
  const [first, last] = [place[0], place[place.length - 1]];
  return last > first ? (tempo.between(first, last) * unit) / (last - first) : tempo.between(first, first + unit);
}
