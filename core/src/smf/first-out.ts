import type { SoundingNote } from '../performance';

const KEYS = 16 * 128;
const keyOf = ({ note }: SoundingNote) => note.channel * 128 + note.pitch;

/** Notes as they can be written, and those of a key that come to start together, which need an order among them. */
export interface Writable {
  readonly notes: readonly SoundingNote[];
  /** Whether a note shares its start with another of its key, and they do not all stand there in their file. */
  readonly joins: (note: SoundingNote) => boolean;
}

/**
 * Notes as a reader gets them that pairs first-in first-out: of one key, a note that starts earlier cannot end later
 * than one that starts after it. Where one does, it ends with that one.
 */
export function firstOut(notes: readonly SoundingNote[]): Writable {
  const lists = keysToMend(notes);
  if (lists.size === 0) return { notes, joins: () => false };
  const together = new Set<SoundingNote>();
  let changed: SoundingNote[] | null = null;
  for (const list of lists.values()) {
    list.sort((a, b) => notes[a].start - notes[b].start || notes[a].end - notes[b].end);
    let earliest = Infinity;
    for (let k = list.length - 1; k >= 0; k--) {
      const i = list[k];
      if (notes[i].end > earliest) {
        changed ??= [...notes];
        changed[i] = { ...notes[i], end: earliest };
      } else earliest = notes[i].end;
    }
    addJoined(list, changed ?? notes, together);
  }
  return { notes: changed ?? notes, joins: (note) => together.has(note) };
}

/** The notes of the keys that are not simply one after the other, by index. */
function keysToMend(notes: readonly SoundingNote[]): Map<number, number[]> {
  const start = new Float64Array(KEYS).fill(-1);
  const end = new Float64Array(KEYS).fill(-1);
  const lists = new Map<number, number[]>();
  for (const n of notes) {
    const key = keyOf(n);
    if (n.start <= start[key] || n.end < end[key]) lists.set(key, []);
    start[key] = n.start;
    end[key] = n.end;
  }
  if (lists.size > 0) notes.forEach((n, i) => lists.get(keyOf(n))?.push(i));
  return lists;
}

/** Whether a note starts where it did in its file, among the same events. */
function stayed({ note, start, ordered }: SoundingNote): boolean {
  return ordered && start === note.start && typeof note.order?.[0] === 'number';
}

function addJoined(sorted: readonly number[], notes: readonly SoundingNote[], together: Set<SoundingNote>): void {
  for (let from = 0; from < sorted.length;) {
    let to = from + 1;
    while (to < sorted.length && notes[sorted[to]].start === notes[sorted[from]].start) to++;
    const run = sorted.slice(from, to).map((i) => notes[i]);
    if (run.length > 1 && !run.every(stayed)) for (const n of run) together.add(n);
    from = to;
  }
}
