import * as z from 'zod';
import {
  contentsOf,
  FIRST_NOTE_EARLY,
  meterOf,
  partStart,
  TickSchema,
  type Note,
  type Part,
  type Song,
  type Track,
} from '../../song';
import { inOrder, outside, spanProblem } from '../fit';
import { base, isProblem, kind, problem } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('part-span'),
  part: z.string(),
  start: TickSchema,
  end: TickSchema,
  /** The part grows for what lies there: to whole bars, as far as there is room. */
  grows: z.literal(true).optional(),
  /** Ids of notes that may lie outside: where it takes a step back before which they did. */
  outside: z.array(z.int()).optional(),
});
type PartSpan = z.infer<typeof schema>;
type Span = Pick<Part, 'start' | 'end'>;

/** Gives a part another beginning or end. What is in it stays in it: notes that would lie outside must be cut off first. */
export const partSpan = kind<PartSpan>({
  schema,
  apply(song, edit) {
    const done = onPart<PartSpan>(song, edit.part, (part, track) => {
      const { start, end } = edit.grows ? grown(song, track, part, edit) : edit;
      const wrong = spanProblem(track, { ...part, start, end });
      if (wrong) return problem(wrong);
      // What lay outside before, such as a first note a hair early, may stay so.
      const all = contentsOf(part).flatMap((content) => content.notes);
      const isInside = (n: Note) => n.start >= part.start && n.start < part.end;
      const free = new Set(edit.outside);
      const out = outside(
        all.filter((n) => isInside(n) && !free.has(n.id)),
        start,
        end,
      );
      if (out) return problem(`“${part.name}” has ${out} there. Cut it at that place first.`);
      const lay = all.filter((n) => !isInside(n)).map((n) => n.id);
      const { outside: _outside, grows: _grows, ...same } = edit;
      const inverse = { ...same, start: part.start, end: part.end, ...(lay.length > 0 ? { outside: lay } : {}) };
      return { part: { ...part, start, end }, inverse };
    });
    if (isProblem(done)) return done;
    // An empty part may come to lie before the one that it followed.
    const tracks = done.song.tracks.map((t) => {
      const moved = t.parts.some((p, i) => i > 0 && p.start < t.parts[i - 1].start);
      return moved ? { ...t, parts: inOrder(t.parts) } : t;
    });
    return { ...done, song: tracks.some((t, i) => t !== done.song.tracks[i]) ? { ...done.song, tracks } : done.song };
  },
  covers: (inverse, next) => inverse.part === next.part,
});

/**
 * The span of a part that takes in a wider one: from bar to bar, so that what is repeated or moved stays in the bars. The
 * parts beside it are the limit, and a first note that is a hair early lies before it.
 */
function grown(song: Song, { parts }: Track, part: Part, to: Span): Span {
  const meter = meterOf(song);
  const at = parts.indexOf(part);
  const [before, after] = [parts[at - 1] as Part | undefined, parts[at + 1] as Part | undefined];
  const isEarly = part.start - to.start <= FIRST_NOTE_EARLY * song.ppq;
  const start = isEarly ? part.start : Math.min(part.start, partStart(to.start, meter));
  const end = Math.max(part.end, meter.wholeBar(Math.max(0, to.end - 1)).end);
  return { start: Math.max(start, before?.end ?? 0), end: Math.min(end, after?.start ?? Infinity) };
}
