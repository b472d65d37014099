import { Blob } from 'node:buffer';
import * as streams from 'node:stream/web';
import { TextDecoder, TextEncoder } from 'node:util';

/** A stream's bytes, as a browser's own `Response` gives them. */
class Response {
  constructor(private readonly body: streams.ReadableStream<Uint8Array>) {}

  async blob(): Promise<Blob> {
    const parts: Uint8Array[] = [];
    for await (const part of this.body) parts.push(part);
    return new Blob(parts);
  }
}

// What every browser has, and the page that stands in for one in tests has not.
Object.assign(globalThis, { ...streams, Blob, Response, TextDecoder, TextEncoder });
