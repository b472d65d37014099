import 'fake-indexeddb/auto';
import { TextDecoder, TextEncoder } from 'node:util';
import { deserialize, serialize } from 'node:v8';
import { setupZonelessTestEnv } from 'jest-preset-angular/setup-env/zoneless';

setupZonelessTestEnv();
// What every browser has and jsdom lacks; copies keep bytes as bytes.
globalThis.structuredClone ??= (value: unknown) => deserialize(serialize(value)) as never;
Object.assign(globalThis, { TextDecoder, TextEncoder });
