import { contentsOf, findPart, idNumber, type Content, type Part } from '../../song';
import { kind, problem } from '../kind';
import { onTrack } from '../on';
import { earlier, PartUncutSchema, type PartCut, type PartUncut } from './cut-edits';

/** Takes a cut back, to the byte; it keeps nothing of what is on its two sides. */
export const partUncut = kind<PartUncut, PartCut>({
  schema: PartUncutSchema,
  apply(song, edit) {
    const found = findPart(song, edit.part);
    const right = findPart(song, edit.with)?.part;
    if (!found || !right) return problem('The song has no such parts any more.');
    const { part: left, track } = found;
    if (track.parts[track.parts.indexOf(left) + 1] !== right) return problem('The two parts are not side by side.');
    if (left.end !== right.start || shell(left) !== shell(right)) {
      return problem('The two parts were changed since they were cut.');
    }
    const [lefts, rights] = [contentsOf(left), contentsOf(right)];
    if (lefts.length !== edit.seams.length || rights.length !== edit.seams.length) {
      return problem('The two parts hold other takes than when they were cut.');
    }
    const whole = edit.seams.map(({ closed, set }, k): Content => ({
      notes: [...lefts[k].notes, ...rights[k].notes],
      events: [...lefts[k].events.slice(0, lefts[k].events.length - closed), ...rights[k].events.slice(set)],
    }));
    const takes = left.takes && { ...left.takes, others: left.takes.others.map((t, k) => ({ ...t, ...whole[k + 1] })) };
    const part: Part = { ...left, ...whole[0], end: right.end, ...(takes ? { takes } : {}) };
    return onTrack<PartCut>(song, track.id, (t) => ({
      track: { ...t, parts: t.parts.flatMap((p) => (p === left ? [part] : p === right ? [] : [p])) },
      inverse: {
        kind: 'part-cut',
        name: edit.name,
        part: left.id,
        at: left.end,
        ...earlier(edit),
        id: idNumber(right.id),
      },
    }));
  },
});

/** A part without what is played in it and where it lies. */
function shell({
  id: _id,
  start: _start,
  end: _end,
  notes: _notes,
  events: _events,
  takes: _takes,
  ...rest
}: Part): string {
  return JSON.stringify(rest);
}
