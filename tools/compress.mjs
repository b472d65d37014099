// Compresses the built application once: smaller than a server could do at each request, and faster to send.
import { readdirSync, statSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { brotliCompress, constants } from 'node:zlib';

/** Names that carry a hash of the contents: what was compressed is never older than the file that it stands for. */
const WORTH = /-[\w-]{8}\.(js|css)$/;
/** Less than a packet or two gains nothing. */
const LARGE = 1024;

const compress = promisify(brotliCompress);

/**
 * Writes a file of Brotli beside each file that gets smaller by it.
 * @param app folder of the built application
 */
export async function compressFiles(app) {
  const paths = readdirSync(app, { recursive: true })
    .map((name) => join(app, name))
    .filter((path) => WORTH.test(path) && statSync(path).size >= LARGE);
  await Promise.all(
    paths.map(async (path) => {
      const bytes = await readFile(path);
      const small = await compress(bytes, {
        params: {
          [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY,
          [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length,
        },
      });
      if (small.length < bytes.length) await writeFile(`${path}.br`, small);
    }),
  );
}
