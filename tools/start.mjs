// npm start: installs what is missing, builds what changed, and serves it.
import { pathToFileURL } from 'node:url';
import { installPackages } from './setup.mjs';

await installPackages();
const { build } = await import('./build.mjs');
await import(pathToFileURL(await build()).href);
