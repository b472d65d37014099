import { idNumber } from './ids';
import type { Part, TreatmentVersion } from './song';

/** All versions of a part's treatment in the order in which they were made; empty where there is but one. */
export function versionsOf({ versions, treatment }: Part): TreatmentVersion[] {
  if (!versions) return [];
  return [...versions.others, { ...versions.current, treatment }].sort((a, b) => idNumber(a.id) - idNumber(b.id));
}

/** A part with another version of its treatment, which changes places with the current one; the same where there is none. */
export function withVersion(part: Part, id: string): Part {
  const next = part.versions?.others.find((v) => v.id === id);
  if (!part.versions || !next) return part;
  const { current } = part.versions;
  const others = part.versions.others.map((v) => (v === next ? { ...current, treatment: part.treatment } : v));
  return { ...part, treatment: next.treatment, versions: { current: { id: next.id, name: next.name }, others } };
}
