// Has the browser fetch what the pages consist of while the program itself is being read. Their many small files would be
// asked for only after that, and the fonts once there is something to write.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { firstScripts } from './first-scripts.mjs';

/** The fonts of all pages, in Latin letters. */
const FONTS = /^atkinson-hyperlegible-next-latin-(400|600)-normal-[\w-]+\.woff2$/;

/**
 * Names the fonts and the scripts of the pages in the page of a built application.
 * @param app folder of the built application
 */
export async function preloadPages(app) {
  const page = join(app, 'page.html');
  const html = readFileSync(page, 'utf8');
  const fonts = readdirSync(join(app, 'media')).filter((name) => FONTS.test(name));
  const { scripts } = await firstScripts(app);
  const later = scripts.filter((script) => !html.includes(`"${script}"`));
  const links = [...fonts.map(fontLink), ...later.map(scriptLink)];
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
