// The page is kept with a mark in place of its nonce. Each time it is opened without the server it gets a nonce of its
// own, and a policy that names it: as strict as the server's, and never the same twice.
const MARK = '__CSP_NONCE__';

self.addEventListener('fetch', (event) => {
  if (event.request.mode !== 'navigate') return;
  const respond = event.respondWith.bind(event);
  event.respondWith = (answer) => respond(Promise.resolve(answer).then(withOwnNonce));
});

async function withOwnNonce(response) {
  const page = await response.clone().text();
  // The server has put one in already.
  if (!page.includes(MARK)) return response;
  const nonce = btoa(String.fromCharCode(...crypto.getRandomValues(new Uint8Array(16))));
  const headers = new Headers(response.headers);
  headers.set('Content-Type', 'text/html; charset=utf-8');
  const policy = headers.get('Content-Security-Policy') ?? '';
  headers.set('Content-Security-Policy', policy.replace(/'nonce-[^']*'/, `'nonce-${nonce}'`));
  return new Response(page.replaceAll(MARK, nonce), { status: 200, headers });
}

importScripts('./ngsw-worker.js');
