// Makes one script of the small ones that all pages share. They are all fetched at the start, and each is a request of its own.
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { rolldown } from 'rolldown';
import { firstScripts } from './first-scripts.mjs';

/** @param app folder of the built application */
export async function mergeChunks(app) {
  const page = join(app, 'page.html');
  const html = readFileSync(page, 'utf8');
  const main = /<script src="(main-[\w-]+\.js)"/.exec(html)?.[1];
  if (!main) throw new Error(`No script is named main in ${page}.`);
  const { entries, scripts } = await firstScripts(app);
  const shared = new Set(scripts.filter((script) => script !== main && !entries.includes(script)));
  const bundle = await rolldown({
    input: join(app, main),
    // What the first script gives to the others, it gives itself.
    preserveEntrySignatures: 'allow-extension',
  });
  const { output } = await bundle.generate({
    minify: { mangle: false, compress: false },
    entryFileNames: 'main-[hash].js',
    chunkFileNames: ({ name }) => `${name.replace(/-[\w-]{8}$/, '')}-[hash].js`,
    codeSplitting: {
      includeDependenciesRecursively: false,
      groups: [{ name: 'pages', test: (id) => shared.has(basename(id)) }],
    },
  });
  await bundle.close();
  for (const { moduleIds } of output) for (const id of moduleIds) rmSync(join(app, basename(id)), { force: true });
  for (const { fileName, code } of output) writeFileSync(join(app, fileName), code);
  const first = output.find(({ isEntry }) => isEntry);
  writeFileSync(page, html.replaceAll(main, first.fileName));
}
