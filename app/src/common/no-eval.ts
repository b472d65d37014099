// The page's policy forbids evaluating text, which Zod would try as soon as it is loaded: some browsers complain of
// that. Zod reads its settings from here. The page loads this as a polyfill, so that it runs before every chunk that
// holds Zod; a worker imports it first.
Object.assign(globalThis, { __zod_globalConfig: { jitless: true } });
