import { z } from 'zod';
import { findPart, heldAt, letGo, sameControl, setAgain, TickSchema, withRounds, type Part } from '../../song';
import { isTaken } from '../fit';
import { base, isProblem, kind, problem } from '../kind';
import { onTrack } from '../on';
import type { PartsEdit } from './parts';

const schema = z.object({
  ...base,
  kind: z.literal('part-cut'),
  part: z.string(),
  at: TickSchema,
  /** A free number: the right part's id is made of it. */
  id: z.int().min(0),
});
type PartCut = z.infer<typeof schema>;

/**
 * Cuts a part in two. Notes belong to the side on which they begin, and ring on over the cut; a held pedal or bend is
 * closed on the left and set again on the right. Both sides keep the treatment.
 */
export const partCut = kind<PartCut, PartsEdit>({
  schema,
  apply(song, edit) {
    const found = findPart(song, edit.part);
    if (!found) return problem(`The song has no part ${edit.part} any more.`);
    const { part, track } = found;
    const id = `p${edit.id}`;
    if (edit.id < song.nextId || isTaken(song, id)) return problem('The new part needs an id that is free.');
    if (edit.at <= part.start || edit.at >= part.end) {
      return problem(`“${part.name}” is not there. Cut it between its beginning and its end.`);
    }
    const [left, right] = cutPart(part, edit.at, id);
    const done = onTrack<PartsEdit>(song, track.id, (t) => ({
      track: { ...t, parts: t.parts.flatMap((p) => (p === part ? [left, right] : [p])) },
      inverse: { kind: 'parts', name: edit.name, track: track.id, remove: [left.id, id], add: [part] },
    }));
    return isProblem(done) ? done : { ...done, song: { ...done.song, nextId: edit.id + 1 } };
  },
});

type Content = Pick<Part, 'notes' | 'events'>;

function cutPart(part: Part, at: number, id: string): [Part, Part] {
  const [left, right] = cutContent(part, at);
  return [
    { ...withRounds(part, (r) => cutContent(r, at)[0]), ...left, end: at },
    { ...withRounds(part, (r) => cutContent(r, at)[1]), ...right, id, start: at },
  ];
}

function cutContent(part: Content, at: number): [Content, Content] {
  const before = part.events.filter((e) => e.tick < at);
  const after = part.events.filter((e) => e.tick >= at);
  const held = heldAt(before).filter((h) => !after.some((e) => e.tick === at && sameControl(e, h)));
  return [
    {
      notes: part.notes.filter((n) => n.start < at),
      events: [...before, ...held.map((e) => letGo(e, at))],
    },
    {
      notes: part.notes.filter((n) => n.start >= at),
      events: [...held.map((e) => setAgain(e, at)), ...after],
    },
  ];
}
