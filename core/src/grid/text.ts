import {
  GRID_VALUES,
  MOST_IN_TUPLET,
  SWING_MAX,
  SWING_MIN,
  grid,
  isSwung,
  stepFraction,
  type Grid,
  type GridValue,
  type Step,
} from './grid';

/** A grid in text that cannot be read; `message` says what is expected. */
export class GridTextError extends Error {
  readonly code = 'grid-text';
  constructor(readonly text: string) {
    super(
      `“${text}” is not a grid. Write 1/16, 1/8T (triplet), 1/8. (dotted), 1/16 5:4 (tuplet), ` +
        `1/16+1/8T (mix) or 1/16 ~62% (swing ${SWING_MIN * 100} to ${SWING_MAX * 100} %).`,
    );
  }
}

const STEP = /^1\/(1|2|4|8|16|32|64)(?:(T|\.)|\s*(\d{1,2}):(\d{1,2}))?$/i;

/** Reads a grid such as `1/16`, `1/8T`, `1/8.`, `1/16 5:4`, `1/16+1/8T`, `1/16 ~62%`. */
export function parseGrid(text: string): Grid {
  const swung = /^(.*?)\s*~\s*(\d+(?:\.\d+)?)\s*%\s*(?:(\+.*))?$/.exec(text.trim());
  const swing = swung ? Number(swung[2]) / 100 : 0.5;
  const steps = (swung ? swung[1] + (swung[3] ?? '') : text).split('+').map((part) => parseStep(part, text));
  if (steps.length > 2 || swing < SWING_MIN || swing > SWING_MAX) throw new GridTextError(text);
  const [first, mix = null] = steps;
  if (swing !== 0.5 && typeof first.shape !== 'string') throw new GridTextError(text);
  return grid(first.value, first.shape, { swing, mix });
}

function parseStep(part: string, whole: string): Step {
  const match = STEP.exec(part.trim());
  if (!match) throw new GridTextError(whole);
  const value = Number(match[1]) as GridValue;
  if (match[2]) return { value, shape: match[2] === '.' ? 'dotted' : { n: 3, m: 2 } };
  if (!match[3]) return { value, shape: 'straight' };
  const [n, m] = [Number(match[3]), Number(match[4])];
  if (n < 1 || m < 1 || n > MOST_IN_TUPLET || m > MOST_IN_TUPLET) throw new GridTextError(whole);
  return { value, shape: { n, m } };
}

/** Writes the lines of a grid as text; {@link parseGrid} reads the same lines back. */
export function formatGrid(g: Grid): string {
  const swing = isSwung(g) ? ` ~${trim(g.swing * 100)}%` : '';
  return formatStep(g) + swing + (g.mix ? `+${formatStep(g.mix)}` : '');
}

/** Writes one step as text: `1/8T`. */
export function formatStep(step: Step): string {
  if (step.shape === 'straight') return `1/${step.value}`;
  if (step.shape === 'dotted') return `1/${step.value}.`;
  const { n, m } = step.shape;
  return n === 3 && m === 2 ? `1/${step.value}T` : `1/${step.value} ${n}:${m}`;
}

function trim(x: number): string {
  return String(Number(x.toFixed(2)));
}

/** A note in words: `sixteenth`, `eighth triplet`, `dotted quarter`. */
export function stepName(step: Step): string {
  const names = ['whole', 'half', 'quarter', 'eighth', 'sixteenth', 'thirty-second', 'sixty-fourth'];
  const name = names[GRID_VALUES.indexOf(step.value)];
  if (step.shape === 'straight') return name;
  if (step.shape === 'dotted') return `dotted ${name}`;
  const { n, m } = step.shape;
  return n === 3 && m === 2 ? `${name} triplet` : `${name} ${n}:${m}`;
}

/**
 * The plainest way to write a step: 1/16 6:4 is 1/16T, 1/8 2:1 is 1/16.
 * Steps of one length have one form.
 */
export function canonicalStep(step: Step): Step {
  const { num, den } = stepFraction(step);
  for (const value of GRID_VALUES) if (num * value === 4 * den) return { value, shape: 'straight' };
  for (const value of GRID_VALUES) if (num * value * 3 === 8 * den) return { value, shape: { n: 3, m: 2 } };
  for (const value of GRID_VALUES) if (num * value * 2 === 12 * den) return { value, shape: 'dotted' };
  return step;
}

/** One grid for one set of lines: the plainest steps, and no mix where one holds the other. */
export function canonicalGrid(g: Grid): Grid {
  const main = canonicalStep(g);
  const mix = g.mix && canonicalStep(g.mix);
  const swing = typeof main.shape === 'string' ? g.swing : 0.5;
  if (!mix) return { ...g, ...main, swing, mix: null };
  if (swing === 0.5 && g.restart === 'bar') {
    if (divides(main, mix)) return { ...g, ...main, swing, mix: null };
    if (divides(mix, main)) return { ...g, ...mix, swing, mix: null };
  }
  return { ...g, ...main, swing, mix };
}

/** Whether every line of `coarse` is a line of `fine` in every bar. */
function divides(fine: Step, coarse: Step): boolean {
  const [a, b] = [stepFraction(fine), stepFraction(coarse)];
  return Number.isInteger((b.num * a.den) / (b.den * a.num));
}
