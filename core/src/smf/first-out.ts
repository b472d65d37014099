import type { SoundingNote } from './performance';

/**
 * Notes as a reader gets them that pairs first-in first-out: of one key, a note that starts earlier cannot end later
 * than one that starts after it. Where one does, it ends with that one. The same list where nothing has to change.
 */
export function firstOut(notes: readonly SoundingNote[]): readonly SoundingNote[] {
  const keys = new Map<number, number[]>();
  notes.forEach(({ note }, i) => {
    const key = note.channel * 128 + note.pitch;
    const list = keys.get(key);
    if (list) list.push(i);
    else keys.set(key, [i]);
  });
  let changed: SoundingNote[] | null = null;
  for (const list of keys.values()) {
    list.sort((a, b) => notes[a].start - notes[b].start || notes[a].end - notes[b].end);
    let earliest = Infinity;
    for (let k = list.length - 1; k >= 0; k--) {
      const i = list[k];
      if (notes[i].end > earliest) {
        changed ??= [...notes];
        changed[i] = { ...notes[i], end: earliest };
      } else earliest = notes[i].end;
    }
  }
  return changed ?? notes;
}
