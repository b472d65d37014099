import * as z from 'zod';
import { TreatmentSchema } from '../../song';
import { base, kind } from '../kind';
import { onPart } from '../on';

const schema = z.object({ ...base, kind: z.literal('treatment'), part: z.string(), treatment: TreatmentSchema });

/** Gives a part another treatment. */
export const treatment = kind({
  schema,
  apply: (song, edit) =>
    onPart(song, edit.part, (part) => ({
      part: { ...part, treatment: edit.treatment },
      inverse: { ...edit, treatment: part.treatment },
    })),
  covers: (inverse, next) => inverse.part === next.part,
});
