import 'fake-indexeddb/auto';
import { setupZonelessTestEnv } from 'jest-preset-angular/setup-env/zoneless';

setupZonelessTestEnv();
// jsdom lacks it; the browser's own is used in the application.
globalThis.structuredClone ??= (value: unknown) => JSON.parse(JSON.stringify(value));
