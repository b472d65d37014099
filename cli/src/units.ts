/** A flag that cannot be read; the message says what to write. */
export class UsageError extends Error {}

/** Longest amount of time that a treatment holds, in ms or ticks. */
const MOST = 60_000;

/** `8ms`, `8t`, `8 ticks`, `40%`; a bare number is in ms. */
export function readLimit(text: string, flag: string): { value: number; unit: 'ms' | 'ticks' | 'percent' } {
  const match = /^\s*(-?\d+(?:\.\d+)?)\s*(ms|t|ticks?|%)?\s*$/.exec(text);
  if (!match) throw new UsageError(`--${flag} ${text}: write a number with ms, t (ticks) or %, such as 8ms.`);
  const unit = match[2] === '%' ? 'percent' : match[2]?.startsWith('t') ? 'ticks' : 'ms';
  const value = Number(match[1]);
  if (Math.abs(value) > MOST) throw new UsageError(`--${flag} ${text}: write an amount up to ${MOST}.`);
  return { value, unit };
}

/** `12ms`, `-8t`; a bare number is in ms. */
export function readTime(text: string, flag: string): { value: number; unit: 'ms' | 'ticks' } {
  const { value, unit } = readLimit(text, flag);
  if (unit === 'percent') throw new UsageError(`--${flag} ${text}: write a time in ms or t (ticks), such as 12ms.`);
  return { value, unit };
}

/** `0.8` or `80%` as a share from 0 to 1. */
export function readShare(text: string, flag: string): number {
  const match = /^\s*(\d+(?:\.\d+)?)\s*(%)?\s*$/.exec(text);
  const value = match ? Number(match[1]) / (match[2] ? 100 : 1) : NaN;
  if (!(value >= 0 && value <= 1))
    throw new UsageError(`--${flag} ${text}: write a share from 0 to 1, such as 0.8 or 80%.`);
  return value;
}

/** One of some words. */
export function readWord<T extends string>(text: string, words: readonly T[], flag: string): T {
  const word = words.find((w) => w === text);
  if (!word) throw new UsageError(`--${flag} ${text}: write one of ${words.join(', ')}.`);
  return word;
}

/** A whole number within bounds. */
export function readWhole(text: string, low: number, high: number, flag: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < low || value > high) {
    throw new UsageError(`--${flag} ${text}: write a whole number from ${low} to ${high}.`);
  }
  return value;
}
