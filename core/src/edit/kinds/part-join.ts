import { findPart, joinContent, type Note, type OwnSet, type Part } from '../../song';
import { asPlayed } from '../as-played';
import { isProblem, kind, problem } from '../kind';
import { onTrack } from '../on';
import { PartJoinSchema, type Given, type PartJoin, type PartUnjoin } from './join-edits';
import { mendOf, unjoined } from './unjoined';

/**
 * Joins a part with the next one of its track. The left one's treatment holds; where the right one's is another, its
 * notes keep that as own settings, so that they go where they went.
 */
export const partJoin = kind<PartJoin, PartUnjoin>({
  schema: PartJoinSchema,
  apply(song, edit) {
    const found = findPart(song, edit.part);
    const next = findPart(song, edit.with);
    if (!found || !next) return problem('The song has no such parts any more.');
    const { part: left, track } = found;
    const right = track.parts[track.parts.indexOf(left) + 1];
    if (right !== next.part) return problem(`“${left.name}” can be joined with the next part of its track only.`);
    for (const { name, takes } of [left, right]) {
      if (takes) return problem(`“${name}” holds ${takes.others.length + 1} takes. Keep one of them alone first.`);
    }
    // The left one's treatment holds: its other versions would not be of the joined notes.
    const several = [left, right].find((p) => p.versions);
    if (several)
      return problem(
        `“${several.name}” has several versions of its treatment. Choose one and delete the others first.`,
      );
    if (left.muted !== right.muted) return problem('One of the two parts is muted. Unmute it, or mute both, first.');
    if (JSON.stringify(left.audio) !== JSON.stringify(right.audio))
      return problem('The two parts do not play the same sound file in one go. Their tracks can play side by side.');
    if (edit.id < song.nextId) return problem('The join needs ids that are free.');
    const ids = { next: edit.id };
    const { joined, given } = join(left, right, ids);
    const [lefts, rights] = unjoined(joined, right.start, given);
    const done = onTrack<PartUnjoin>(song, track.id, (t) => ({
      track: { ...t, parts: t.parts.flatMap((p) => (p === left ? [joined] : p === right ? [] : [p])) },
      inverse: {
        kind: 'part-unjoin',
        name: edit.name,
        left: shell(left),
        right: shell(right),
        given,
        mend: { left: mendOf(lefts, left), right: mendOf(rights, right) },
        id: edit.id,
      },
    }));
    return isProblem(done) ? done : { ...done, song: { ...done.song, nextId: ids.next } };
  },
});

/** A part without what is played in it. */
function shell(part: Part): Part {
  return { ...part, notes: [], events: [] };
}

function join(left: Part, right: Part, ids: { next: number }): { readonly joined: Part; readonly given: Given } {
  const on = left.on || right.on;
  const alike = JSON.stringify(left.treatment) === JSON.stringify(right.treatment);
  const { sets, notes, own, renamed } = adopt(right, left.sets, alike, ids);
  const [leftPlayed, rightPlayed] = [on && !left.on, on && !right.on];
  const lefts = leftPlayed ? asPlayed(left.notes) : left.notes;
  const rights = rightPlayed ? asPlayed(right.notes) : notes;
  // A cut may have taken notes to the right that were played early for it: what was held is set again at the first of them.
  const seam = Math.min(right.start, right.events[0]?.tick ?? right.start);
  const { notes: all, events } = joinContent({ ...left, notes: lefts }, { ...right, notes: rights }, seam);
  const { origin, ...rest } = left;
  const sameOrigin = origin !== undefined && origin.source === right.origin?.source;
  const joined: Part = {
    ...rest,
    end: right.end,
    on,
    sets,
    notes: all,
    // Events of the left part may lie beyond its end.
    events: [...events].sort((a, b) => a.tick - b.tick),
    ...(sameOrigin ? { origin } : {}),
  };
  return { joined, given: { leftPlayed, rightPlayed, own, renamed } };
}

/** The right part's own settings and notes as they are in the left one. */
function adopt(
  right: Part,
  known: readonly OwnSet[],
  alike: boolean,
  ids: { next: number },
): { sets: OwnSet[]; notes: Note[] } & Pick<Given, 'own' | 'renamed'> {
  const sets = [...known];
  const names = new Map<string, string>();
  for (const own of right.sets) {
    const same = known.find((s) => s.id === own.id);
    if (same && JSON.stringify(same.treatment) === JSON.stringify(own.treatment)) continue;
    const id = same ? `own${ids.next++}` : own.id;
    names.set(own.id, id);
    sets.push({ ...own, id });
  }
  let other: string | null = null;
  if (!alike) {
    other = `own${ids.next++}`;
    sets.push({ id: other, name: right.name || 'own settings', treatment: right.treatment });
  }
  const notes = right.notes.map((note): Note => {
    const { exception } = note;
    if (!exception) return other === null ? note : { ...note, exception: { kind: 'own', set: other } };
    if (exception.kind !== 'own') return note;
    const set = names.get(exception.set);
    return set === undefined ? note : { ...note, exception: { kind: 'own', set } };
  });
  const renamed = [...names].filter(([was, now]) => was !== now).map(([was, now]): [string, string] => [now, was]);
  return { sets, notes, own: other, renamed };
}
