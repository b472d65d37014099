import type { Panels } from './panels';

/** Names of the strips at the foot of the desk, of which one is open at a time: the roll keeps its room. */
export const SHAPE = 'shape';
export const SELECT = 'select';
export const TIDY = 'tidy';
export const RULES = 'rules';
export const HISTORY = 'history';
export const TRACK = 'track';
export const PART = 'part';
export const TIME = 'time';
export const BRING = 'bring';
export const EXPORT = 'export';
export const GUIDE = 'guide';
export const BEST_TAKES = 'best-takes';
export const REMEDY = 'remedy';

const FOOT_STRIPS = [
  SHAPE,
  SELECT,
  TIDY,
  RULES,
  HISTORY,
  TRACK,
  PART,
  TIME,
  BRING,
  EXPORT,
  GUIDE,
  BEST_TAKES,
  REMEDY,
] as const;
export type FootStrip = (typeof FOOT_STRIPS)[number];

/** Opens such a strip in place of the one that is open, or closes it. */
export function toggleStrip(panels: Panels, name: FootStrip): void {
  if (panels.isOpen(name)) panels.close(name);
  else openStrip(panels, name);
}

/** Opens such a strip in place of the one that is open. */
export function openStrip(panels: Panels, name: FootStrip): void {
  for (const other of FOOT_STRIPS) if (other !== name) panels.close(other);
  panels.open(name);
}
