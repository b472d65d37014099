import { contentsOf, cutContent, findPart, withContents, type Part } from '../../song';
import { isTaken } from '../fit';
import { isProblem, kind, problem } from '../kind';
import { onTrack } from '../on';
import { earlier, PartCutSchema, type PartCut, type PartUncut } from './cut-edits';

/**
 * Cuts a part in two. Notes belong to the side on which they begin, and ring on over the cut; those from `from` on go
 * with the right. A held pedal or bend is closed on the left and set again on the right. Both sides keep the treatment.
 */
export const partCut = kind<PartCut, PartUncut>({
  schema: PartCutSchema,
  apply(song, edit) {
    const found = findPart(song, edit.part);
    if (!found) return problem(`The song has no part ${edit.part} any more.`);
    const { part, track } = found;
    const id = `p${edit.id}`;
    if (edit.id < song.nextId || isTaken(song, id)) return problem('The new part needs an id that is free.');
    if (edit.at <= part.start || edit.at >= part.end) {
      return problem(`“${part.name}” is not there. Cut it between its beginning and its end.`);
    }
    const { from = edit.at } = edit;
    if (from < part.start || from > edit.at)
      return problem('What goes with the right part must begin in the left one.');
    const left: Part = { ...withContents(part, (c) => cutContent(c, from)[0]), end: edit.at };
    const right: Part = { ...withContents(part, (c) => cutContent(c, from)[1]), id, start: edit.at };
    const [lefts, rights] = [contentsOf(left), contentsOf(right)];
    const seams = contentsOf(part).map(({ events }, k) => {
      const before = events.filter((e) => e.tick < from).length;
      return {
        closed: lefts[k].events.length - before,
        set: rights[k].events.length - (events.length - before),
      };
    });
    const done = onTrack<PartUncut>(song, track.id, (t) => ({
      track: { ...t, parts: t.parts.flatMap((p) => (p === part ? [left, right] : [p])) },
      inverse: { kind: 'part-uncut', name: edit.name, part: part.id, with: id, ...earlier(edit), seams },
    }));
    return isProblem(done) ? done : { ...done, song: { ...done.song, nextId: edit.id + 1 } };
  },
});
