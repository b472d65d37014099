import { writeFileSync } from 'node:fs';
import { songFileSchemas } from '@early-sparrow/core/keeping';

// Writes the schemas of the documents in a song file: `node tools/run-ts.mjs tools/schemas.ts FILE`.
const [, , path] = process.argv;
writeFileSync(path, `${JSON.stringify(songFileSchemas(), null, 1)}\n`);
