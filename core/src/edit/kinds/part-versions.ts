import * as z from 'zod';
import { PartSchema } from '../../song';
import { base, kind, problem } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('part-versions'),
  part: z.string(),
  /** What the part's versions become: one more, one fewer, another name; null for its treatment alone. */
  versions: PartSchema.shape.versions.unwrap().nullable(),
});

/** Adds a version of a part's treatment, takes some away, or names one; the treatment itself stays what it is. */
export const partVersions = kind({
  schema,
  apply: (song, edit) =>
    onPart(song, edit.part, (part) => {
      const ids = edit.versions ? [edit.versions.current.id, ...edit.versions.others.map((v) => v.id)] : [];
      if (new Set(ids).size < ids.length) return problem('Two versions of a treatment have the same id.');
      return {
        // It keeps its place among the part's properties: undone, the song is the same to the byte.
        part: { ...part, versions: edit.versions ?? undefined },
        inverse: { ...edit, versions: part.versions ?? null },
      };
    }),
});
