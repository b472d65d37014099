import * as z from 'zod';
import { HEARD } from '../../song';
import { base, kind, problem } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('part-audio'),
  part: z.string(),
  heard: z.enum(HEARD),
});

/** Lets a part with a sound file be heard as the file, as its notes, or as both. */
export const partAudio = kind({
  schema,
  apply: (song, edit) =>
    onPart(song, edit.part, (part) => {
      const { audio } = part;
      if (!audio) return problem(`“${part.name}” plays no sound file.`);
      return { part: { ...part, audio: { ...audio, heard: edit.heard } }, inverse: { ...edit, heard: audio.heard } };
    }),
  covers: (inverse, next) => inverse.part === next.part,
});
