import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createServer } from '../src/server';

describe('the server', () => {
  let server: Server;
  let url = '';

  beforeAll(async () => {
    const folder = mkdtempSync(join(tmpdir(), 'early-sparrow-'));
    const app = join(folder, 'app');
    mkdirSync(app);
    writeFileSync(join(folder, 'secret.txt'), 'not for you');
    writeFileSync(join(app, 'index.html'), '<es-root ngCspNonce="__CSP_NONCE__"></es-root>');
    writeFileSync(join(app, 'main-ABCD1234.js'), `/* ${'x'.repeat(4000)} */`);
    writeFileSync(join(app, '.built'), '');
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
    expect(policy).not.toContain('unsafe');
  });

  it('keeps hashed files for long and others not, and compresses', async () => {
    const script = await fetch(`${url}/main-ABCD1234.js`);
    expect(script.headers.get('cache-control')).toContain('immutable');
    expect(script.headers.get('content-encoding')).toMatch(/gzip|br|deflate/);
    expect((await fetch(`${url}/sparrow.svg`)).headers.get('cache-control')).toBe('no-cache');
    expect((await fetch(url)).headers.get('cache-control')).toBe('no-store');
  });

  it.each(['/../secret.txt', '/%2e%2e/secret.txt', '/..%2fsecret.txt', '/.built', '/missing.js'])(
    'does not give out %s',
    async (path) => {
      const response = await fetch(url + path);
      expect(await response.text()).not.toContain('not for you');
      expect(response.status === 200 && path.endsWith('.js')).toBe(false);
    },
  );

  it('does not say what it runs on', async () => expect((await fetch(url)).headers.get('x-powered-by')).toBeNull());
});
