import * as z from 'zod';
import { BytesSchema, NoteSchema, NotesSchema, SongSchema } from '../song';
import { AboutSchema, HistorySchema } from './song-file';

/** The JSON documents in a song file as JSON Schema (draft 2020-12), made from what they are checked by. */
export function songFileSchemas(): Record<'about.json' | 'song.json' | 'history.json', object> {
  return {
    'about.json': schemaOf(AboutSchema),
    'song.json': schemaOf(SongSchema),
    'history.json': schemaOf(HistorySchema),
  };
}

function schemaOf(schema: z.ZodType): object {
  return z.toJSONSchema(schema, {
    unrepresentable: 'any',
    io: 'input',
    override: ({ zodSchema, jsonSchema }) => {
      // What is checked by hand, for speed or by its tag, is described here.
      if (Object.is(zodSchema, BytesSchema)) Object.assign(jsonSchema, BYTES);
      if (Object.is(zodSchema, NotesSchema)) {
        Object.assign(jsonSchema, { type: 'array', items: z.toJSONSchema(NoteSchema, { unrepresentable: 'any' }) });
      }
    },
  });
}

const BYTES = {
  type: 'object',
  properties: { $bytes: { type: 'string', contentEncoding: 'base64' } },
  required: ['$bytes'],
};
