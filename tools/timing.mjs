// npm run timing: the command line, bundled when its sources changed.
import { pathToFileURL } from 'node:url';
import { installPackages } from './setup.mjs';

await installPackages();
const { bundle } = await import('./run-ts.mjs');
await bundle('cli/src/worker.ts');
await import(pathToFileURL(await bundle('cli/src/main.ts')).href);
