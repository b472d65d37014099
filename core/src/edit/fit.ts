import { counted, idNumber, type Note, type Part, partsOf, type Song, type Track } from '../song';

/** The next free id once these things are in a song. */
export function nextIdWith(song: Song, parts: readonly Part[], tracks: readonly Track[] = []): number {
  let next = song.nextId;
  for (const { id } of tracks) next = Math.max(next, idNumber(id) + 1);
  for (const part of [...parts, ...tracks.flatMap((t) => t.parts)]) {
    next = Math.max(next, idNumber(part.id) + 1);
    for (const { id } of part.notes) if (id >= next) next = id + 1;
    for (const round of part.takes?.others ?? []) {
      next = Math.max(next, idNumber(round.id) + 1);
      for (const { id } of round.notes) if (id >= next) next = id + 1;
    }
    if (part.takes) next = Math.max(next, idNumber(part.takes.chosen.id) + 1);
  }
  return next;
}

/** Whether the id of a track or part is taken. */
export function isTaken(song: Song, id: string): boolean {
  return song.tracks.some((t) => t.id === id || t.parts.some((p) => p.id === id));
}

/**
 * Whether notes have an id that another note of the song has, or two of them the same one.
 * @param except a part whose notes with ids in `gone` do not count
 */
export function notesClash(
  song: Song,
  notes: readonly Note[],
  gone?: { part: Part; ids: ReadonlySet<number> },
): boolean {
  const ids = new Set<number>();
  for (const { id } of notes) ids.add(id);
  if (ids.size < notes.length) return true;
  // Ids that were never given away cannot be in use.
  let old = false;
  for (const id of ids) if (id < song.nextId && !gone?.ids.has(id)) old = true;
  if (!old) return false;
  for (const { part } of partsOf(song)) {
    for (const { id } of part.notes) {
      if (ids.has(id) && !(part === gone?.part && gone.ids.has(id))) return true;
    }
  }
  return false;
}

/** The part of a track that lies in the way of a span; undefined where it is free. */
export function inTheWay(track: Track, start: number, end: number, except?: string): Part | undefined {
  return track.parts.find((p) => p.id !== except && p.start < end && start < p.end);
}

/** Parts in order of time. */
export function inOrder(parts: readonly Part[]): Part[] {
  return [...parts].sort((a, b) => a.start - b.start);
}

/** Why a part cannot stand where it is meant to, in words; null where it can. */
export function spanProblem(track: Track, part: Pick<Part, 'id' | 'name' | 'start' | 'end'>): string | null {
  if (part.start < 0) return `“${part.name}” would begin before the song.`;
  if (part.end <= part.start) return `“${part.name}” would have no length.`;
  const other = inTheWay(track, part.start, part.end, part.id);
  return other ? `“${part.name}” would lie on “${other.name}”. Cut or move that first.` : null;
}

/** How many notes begin outside of a span. */
export function outside(notes: readonly Note[], start: number, end: number): string | null {
  const count = notes.filter((n) => n.start < start || n.start >= end).length;
  return count === 0 ? null : counted(count, 'note');
}
