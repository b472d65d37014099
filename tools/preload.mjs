// Has the browser fetch what the pages consist of while the program itself is being read. Their many small files would be
// asked for only after that, and the fonts once there is something to write.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';

/** What is shown or done first, whatever is asked for: scripts that are not part of the program's first one. */
const FIRST = /^(desk-page|songs-page|first-visit)-[\w-]+\.js$/;
/** The fonts of all pages, in Latin letters. */
const FONTS = /^atkinson-hyperlegible-next-latin-(400|600)-normal-[\w-]+\.woff2$/;

/**
 * Names the fonts and the scripts of the pages in the page of a built application.
 * @param app folder of the built application
 */
export async function preloadPages(app) {
  const page = join(app, 'page.html');
  const html = readFileSync(page, 'utf8');
  const entries = readdirSync(app).filter((name) => FIRST.test(name));
  if (entries.length !== 3) throw new Error(`Scripts of three pages were expected in ${app}: ${entries.join(', ')}`);
  const fonts = readdirSync(join(app, 'media')).filter((name) => FONTS.test(name));
  const scripts = (await scriptsOf(app, entries)).filter((script) => !html.includes(`"${script}"`));
  const links = [...fonts.map(fontLink), ...scripts.map(scriptLink)];
  writeFileSync(page, html.replace('</body>', `${links.join('')}</body>`));
}

/** A font is fetched twice where this does not say `crossorigin`, as the style sheet's own request does. */
function fontLink(font) {
  return `<link rel="preload" as="font" type="font/woff2" href="media/${font}" crossorigin>`;
}

/** After the first script, which everything waits for. */
function scriptLink(script) {
  return `<link rel="modulepreload" href="${script}" fetchpriority="low">`;
}

/** Some scripts and all that they import from the start, by name. */
async function scriptsOf(app, entries) {
  const { metafile } = await build({
    absWorkingDir: app,
    entryPoints: entries,
    bundle: true,
    splitting: true,
    format: 'esm',
    outdir: 'unwritten',
    write: false,
    metafile: true,
    logLevel: 'error',
  });
  const found = new Set();
  const add = (script) => {
    if (found.has(script)) return;
    found.add(script);
    for (const { path, kind } of metafile.inputs[script].imports) if (kind === 'import-statement') add(path);
  };
  entries.forEach(add);
  return [...found];
}
