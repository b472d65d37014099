import type { TimeAmount } from './amount';

/** An amount as it was typed: a time, or a share in percent. */
export type TypedAmount = TimeAmount | { readonly value: number; readonly unit: 'percent' };

const NUMBER = String.raw`([+\-−]?\s*\d+(?:[.,]\d+)?)`;
const PLAIN = new RegExp(`^${NUMBER}\\s*(ms|s|t|ticks?|%|percent)?$`, 'i');
const FRACTION = /^([+\-−]?)\s*(\d+)\s*\/\s*(\d+)\s*(t|\.)?$/i;

/**
 * Reads an amount that a person typed: `12 ms`, `0.5 s`, `30 t`, `1/64` (of a whole note; `1/8T` a triplet,
 * `1/8.` dotted), `40 %`. A bare number has the unit `usual`.
 * @param ppq ticks a quarter note
 * @returns null where it cannot be read
 */
export function readAmount(text: string, usual: TypedAmount['unit'], ppq: number): TypedAmount | null {
  const trimmed = text.trim();
  const fraction = FRACTION.exec(trimmed);
  if (fraction) {
    const [, sign, above, below, shape] = fraction;
    const times = shape === '.' ? 3 / 2 : shape ? 2 / 3 : 1;
    const ticks = (4 * ppq * Number(above) * times) / Number(below);
    if (!Number.isFinite(ticks)) return null;
    return { value: (sign === '' || sign === '+' ? 1 : -1) * round(ticks), unit: 'ticks' };
  }
  const plain = PLAIN.exec(trimmed);
  if (!plain) return null;
  const value = Number(plain[1].replace(/\s/g, '').replace('−', '-').replace(',', '.'));
  const unit = plain[2]?.toLowerCase();
  if (!unit) return { value, unit: usual };
  if (unit === '%' || unit === 'percent') return { value, unit: 'percent' };
  if (unit === 's') return { value: value * 1000, unit: 'ms' };
  return { value, unit: unit === 'ms' ? 'ms' : 'ticks' };
}

/**
 * Reads a bare number that a person typed, or a share in percent: `12`, `−3,5`, `40 %`.
 * @param unit what may stand behind it
 * @returns null where it cannot be read, or another unit stands behind it
 */
export function readNumber(text: string, unit: '%' | ''): number | null {
  const typed = readAmount(text, 'percent', 1);
  const fits = typed?.unit === 'percent' && (unit === '%' || !/%|percent/i.test(text));
  return fits ? typed.value : null;
}

function round(ticks: number): number {
  return Math.round(ticks * 1000) / 1000;
}
