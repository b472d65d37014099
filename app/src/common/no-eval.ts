// The page's policy forbids evaluating text, which Zod would try once: some browsers complain of that. Zod reads its
// settings from here when it is loaded; asking it directly would put all of it into the first script.
Object.assign(globalThis, { __zod_globalConfig: { jitless: true } });
