import { formatDistanceToNow } from 'date-fns';
import { counted, PITCH_NAMES, pitchName } from '@early-sparrow/core/song';

/** `3 minutes ago` from an ISO date. */
export function ago(iso: string): string {
  return formatDistanceToNow(new Date(iso), { addSuffix: true });
}

/** `2:05` from seconds. */
export function minutes(seconds: number): string {
  return `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`;
}

/** A time in ms for people: one decimal below ten, none above. */
export function shortMs(ms: number): string {
  const size = Math.abs(ms);
  return size < 9.95 ? size.toFixed(1) : size.toFixed(0);
}

/** `+2.4`, `−11.0`, `0.0`, from ms. */
export function signed(ms: number): string {
  const size = Math.abs(ms).toFixed(1);
  return size === '0.0' ? size : `${ms < 0 ? '−' : '+'}${size}`;
}

/** A number with a minus as it is printed: `−10`. */
export function withMinus(n: number | string): string {
  return String(n).replace('-', '−');
}

/** What to do where a number that was typed is none, or out of range. */
export function numberProblem(least: number | string, most: number | string): string {
  return `Type a number from ${withMinus(least)} to ${withMinus(most)}.`;
}

export { counted, PITCH_NAMES, pitchName };

/** `One note`, `3 notes`: at the beginning of a sentence. */
export function countedFirst(n: number, what: string, many?: string): string {
  const text = counted(n, what, many);
  return text[0].toUpperCase() + text.slice(1);
}

/** `12 ms early`, `on the line`, `3.1 ms late`. */
export function earlyOrLate(ms: number): string {
  return Math.abs(ms) < 0.05 ? 'on the line' : `${shortMs(ms)} ms ${ms < 0 ? 'early' : 'late'}`;
}
