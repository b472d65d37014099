import 'fake-indexeddb/auto';
import { webcrypto } from 'node:crypto';
import { TextDecoder, TextEncoder } from 'node:util';
import { deserialize, serialize } from 'node:v8';
import { setupZonelessTestEnv } from 'jest-preset-angular/setup-env/zoneless';

setupZonelessTestEnv();
// What every browser has and jsdom lacks; copies keep bytes as bytes.
globalThis.structuredClone ??= (value: unknown) => deserialize(serialize(value)) as never;
Object.assign(globalThis, { TextDecoder, TextEncoder });
// jsdom draws nothing, and would say so at length each time.
HTMLCanvasElement.prototype.getContext = () => null;
// Its own arrays are not those of this window.
const digest = (how: string, bytes: ArrayBuffer) => webcrypto.subtle.digest(how, Buffer.from(new Uint8Array(bytes)));
Object.defineProperty(globalThis.crypto, 'subtle', { value: { digest } });
Blob.prototype.arrayBuffer ??= function (this: Blob) {
  return new Promise((done) => {
    const reader = new FileReader();
    reader.onload = () => done(reader.result as ArrayBuffer);
    reader.readAsArrayBuffer(this);
  });
};
