import * as z from 'zod';
import { withVersion } from '../../song';
import { base, kind, problem } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('part-version'),
  part: z.string(),
  /** Id of the version. */
  version: z.string(),
});

/** Gives a part another version of its treatment; the one that it had stays among its versions, as it is now. */
export const partVersion = kind({
  schema,
  apply: (song, edit) =>
    onPart(song, edit.part, (part) => {
      const chosen = withVersion(part, edit.version);
      if (chosen === part || !part.versions) return problem(`“${part.name}” has no such version of its treatment.`);
      return { part: chosen, inverse: { ...edit, version: part.versions.current.id } };
    }),
});
