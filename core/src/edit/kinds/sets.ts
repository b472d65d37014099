import * as z from 'zod';
import { OwnSetSchema } from '../../song';
import { base, kind } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('sets'),
  part: z.string(),
  sets: z.array(OwnSetSchema).readonly(),
});

/** Gives a part other own settings for its exceptions. */
export const sets = kind({
  schema,
  apply: (song, edit) =>
    onPart(song, edit.part, (part) => ({ part: { ...part, sets: edit.sets }, inverse: { ...edit, sets: part.sets } })),
  covers: (inverse, next) => inverse.part === next.part,
});
