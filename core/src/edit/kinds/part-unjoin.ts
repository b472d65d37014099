import { findPart, type Part } from '../../song';
import { isTaken } from '../fit';
import { kind, problem } from '../kind';
import { onTrack } from '../on';
import { PartUnjoinSchema, type PartJoin, type PartUnjoin } from './join-edits';
import { mended, unjoined } from './unjoined';

/** Takes a join back, to the byte; it keeps only what a cut of the joined part does not give. */
export const partUnjoin = kind<PartUnjoin, PartJoin>({
  schema: PartUnjoinSchema,
  apply(song, edit) {
    const found = findPart(song, edit.left.id);
    if (!found) return problem(`The song has no part ${edit.left.id} any more.`);
    if (isTaken(song, edit.right.id)) return problem('The part that was joined is there already.');
    const { part: joined, track } = found;
    const [lefts, rights] = unjoined(joined, edit.right.start, edit.given);
    const left: Part = { ...edit.left, ...mended(lefts, edit.mend.left) };
    const right: Part = { ...edit.right, ...mended(rights, edit.mend.right) };
    if (left.notes.length + right.notes.length !== joined.notes.length) {
      return problem('The part was changed since it was joined.');
    }
    return onTrack<PartJoin>(song, track.id, (t) => ({
      track: { ...t, parts: t.parts.flatMap((p) => (p === joined ? [left, right] : [p])) },
      inverse: { kind: 'part-join', name: edit.name, part: left.id, with: right.id, id: edit.id },
    }));
  },
});
