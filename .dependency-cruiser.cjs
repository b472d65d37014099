/** Arrows point one way: app → core, cli → core; the server knows neither. */
const core = (name) => `^core/src/${name}/`;
const order = [
  'maths',
  'time',
  'grid',
  'follow',
  'song',
  'groove',
  'performance',
  'smf',
  'treatment',
  'insight',
  'beats',
  'recipe',
  'sound',
  'bank',
  'edit',
  'shape',
  'rules',
  'record',
  'takes',
  'remedy',
  'keeping',
  'batch',
  'audio',
];

/** The rooms of the desk: one may use those before it, never those after it. */
const desk = (name) => `^app/src/desk/${name}/`;
const rooms = [
  'kit',
  'hand',
  'controls',
  'files',
  'tempo',
  'fits',
  'listening',
  'picture',
  'shape',
  'rules',
  'history',
  'arrange',
  'tracks',
  'treatment',
  'recording',
  'report',
  'remedy',
  'help',
];

module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-is-alone',
      severity: 'error',
      from: { path: '^core/src' },
      to: { path: '^(app|cli|server|bench|tools|e2e)/' },
    },
    {
      name: 'core-packages',
      severity: 'error',
      from: { path: '^core/src', pathNot: [core('bank'), core('audio'), core('keeping')] },
      to: { path: 'node_modules/(?!zod)' },
    },
    {
      name: 'core-bank-packages',
      severity: 'error',
      from: { path: core('bank') },
      to: { path: 'node_modules/(?!spessasynth_core)' },
    },
    {
      name: 'core-keeping-packages',
      severity: 'error',
      from: { path: core('keeping') },
      to: { path: 'node_modules/(?!fflate|zod)' },
    },
    {
      name: 'core-audio-packages',
      severity: 'error',
      from: { path: core('audio') },
      to: { path: 'node_modules/(?!fft.js)' },
    },
    { name: 'server-is-alone', severity: 'error', from: { path: '^server/' }, to: { path: '^(app|core|cli)/' } },
    { name: 'cli-knows-core-only', severity: 'error', from: { path: '^cli/src' }, to: { path: '^(app|server|e2e)/' } },
    {
      name: 'app-knows-core-only',
      severity: 'error',
      from: { path: '^app/src' },
      to: { path: '^(cli|server|bench|tools|e2e)/' },
    },
    ...rooms.slice(0, -1).map((name, i) => ({
      name: `desk-order-${name}`,
      severity: 'error',
      from: { path: desk(name) },
      to: {
        path: rooms
          .slice(i + 1)
          .map(desk)
          .join('|'),
      },
    })),
    // Inside the core, a folder may use those before it in the order, never those after it.
    ...order.slice(0, -1).map((name, i) => ({
      name: `core-order-${name}`,
      severity: 'error',
      from: { path: core(name) },
      to: { path: order.slice(i + 1).map(core) },
    })),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|node_modules/(?!@early))' },
    tsConfig: { fileName: 'tsconfig.node.json' },
    tsPreCompilationDeps: true,
  },
};
