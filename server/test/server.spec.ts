import { connect, type AddressInfo } from 'node:net';
import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync } from 'node:zlib';
import { createServer } from '../src/server';

describe('the server', () => {
  let server: Server;
  let url = '';

  beforeAll(async () => {
    const folder = mkdtempSync(join(tmpdir(), 'early-sparrow-'));
    const app = join(folder, 'app');
    mkdirSync(app);
    writeFileSync(join(folder, 'secret.txt'), 'not for you');
    writeFileSync(join(app, 'page.html'), '<es-root ngCspNonce="__CSP_NONCE__"></es-root>');
    writeFileSync(join(app, 'main-ABCD1234.js'), `/* ${'x'.repeat(4000)} */`);
    writeFileSync(join(app, 'chunk-ABCD1234.js'), 'const plain = 1;');
    // Not the same, so that a test sees which of the two it got.
    writeFileSync(join(app, 'chunk-ABCD1234.js.br'), brotliCompressSync('const compressed = 1;'));
    writeFileSync(join(app, '.built'), 'not for you');
    writeFileSync(join(app, 'stats.json'), '{ "not for you": 1 }');
    writeFileSync(join(app, 'sparrow.svg'), '<svg/>');
    server = createServer(app).listen(0);
    await new Promise((done) => server.once('listening', done));
    url = `http://localhost:${(server.address() as AddressInfo).port}`;
  });
  afterAll(() => new Promise((done) => server.close(done)));

  it('gives every page a nonce of its own, in the policy and in the page', async () => {
    const nonces = await Promise.all(
      ['/', '/song/abc'].map(async (path) => {
        const response = await fetch(url + path);
        const nonce = /nonce-([^']+)'/.exec(response.headers.get('content-security-policy') ?? '')?.[1];
        expect(await response.text()).toContain(`ngCspNonce="${nonce}"`);
        return nonce;
      }),
    );
    expect(new Set(nonces).size).toBe(2);
  });

  it('allows scripts, workers and requests from itself only, nothing inline and no eval', async () => {
    const policy = (await fetch(url)).headers.get('content-security-policy') ?? '';
    for (const rule of ["default-src 'none'", "script-src 'self'", "worker-src 'self'", "connect-src 'self'"]) {
      expect(policy).toContain(rule);
    }
    // The decoder of compressed sounds is WebAssembly; nothing else is evaluated.
    expect(policy.replace("'wasm-unsafe-eval'", '')).not.toContain('unsafe');
  });

  it('gives the service worker the page as it was built, which is no page by itself', async () => {
    const file = await fetch(`${url}/page.html`);
    expect(file.headers.get('content-type')).toContain('text/plain');
    expect(file.headers.get('x-content-type-options')).toBe('nosniff');
    expect(await file.text()).toBe('<es-root ngCspNonce="__CSP_NONCE__"></es-root>');
  });

  it('keeps hashed files for long and others not, and compresses', async () => {
    const script = await fetch(`${url}/main-ABCD1234.js`);
    expect(script.headers.get('cache-control')).toContain('immutable');
    expect(script.headers.get('content-encoding')).toMatch(/gzip|br|deflate/);
    expect((await fetch(`${url}/sparrow.svg`)).headers.get('cache-control')).toBe('no-cache');
    expect((await fetch(url)).headers.get('cache-control')).toBe('no-store');
  });

  it('sends the compressed file of the build to browsers that can read it, kept as long as the plain one', async () => {
    const chunk = (accepts: string) => fetch(`${url}/chunk-ABCD1234.js`, { headers: { 'accept-encoding': accepts } });
    const small = await chunk('gzip, deflate, br');
    expect(small.headers.get('content-encoding')).toBe('br');
    expect(small.headers.get('content-type')).toMatch(/javascript/);
    expect(small.headers.get('cache-control')).toContain('immutable');
    expect(small.headers.get('vary')).toContain('Accept-Encoding');
    expect(await small.text()).toBe('const compressed = 1;');
    const plain = await chunk('gzip');
    expect(await plain.text()).toBe('const plain = 1;');
    expect(plain.headers.get('vary')).toContain('Accept-Encoding');
  });

  /** What is answered to a path that is sent as it is: `fetch` would tidy it first. */
  function raw(path: string): Promise<string> {
    const { port } = server.address() as AddressInfo;
    return new Promise((done, fail) => {
      const socket = connect(port, 'localhost', () =>
        socket.write(`GET ${path} HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n`),
      );
      let text = '';
      socket.on('data', (chunk: Buffer) => (text += chunk.toString('latin1')));
      socket.on('end', () => done(text));
      socket.on('error', fail);
    });
  }

  it.each([
    '/../secret.txt',
    '/%2e%2e/secret.txt',
    '/..%2fsecret.txt',
    '/..%5csecret.txt',
    '/app/../../secret.txt',
    '/./../secret.txt',
    '//../secret.txt',
    '/.built',
    '/missing.js',
    '/stats.json',
    '//stats.json',
    '/%73tats.json',
    '/%2573tats.json',
    '/voices/../stats.json',
    '/voices/%2e%2e/stats.json',
    '/.%2fstats.json',
    '/%zz',
  ])('does not give out %s', async (path) => {
    const answer = await raw(path);
    expect(answer).toMatch(/^HTTP\/1\.1 (4\d\d|200)/);
    expect(answer).not.toContain('not for you');
    // A page of the application, if anything: never a file.
    if (answer.startsWith('HTTP/1.1 200')) expect(answer).toContain('<es-root');
    else expect(answer).toMatch(/^HTTP\/1\.1 40[034]/);
  });

  it('gives out what it should over the same socket', async () => {
    expect(await raw('/sparrow.svg')).toContain('<svg/>');
  });

  it('gives the page with a nonce by its file name too', async () => {
    const answer = await raw('/index.html');
    expect(answer).toContain('<es-root');
    expect(answer).not.toContain('__CSP_NONCE__');
  });

  it('lets nobody frame it and no part of it ask for a device', async () => {
    const { headers } = await fetch(url);
    expect(headers.get('x-frame-options')).toBe('DENY');
    expect(headers.get('content-security-policy')).toContain("frame-ancestors 'none'");
    expect(headers.get('permissions-policy')).toContain('microphone=()');
    expect(headers.get('permissions-policy')).toContain('midi=(self)');
  });

  it('does not say what it runs on', async () => expect((await fetch(url)).headers.get('x-powered-by')).toBeNull());
});
