const root = import.meta.dirname;
const core = { '^@early-sparrow/core/(.*)$': `${root}/core/src/$1/index.ts` };

// A test's own global scope is slow to look in, and every program asks for these all the time: by a third.
const GLOBALS = [
  ...['Math', 'Number', 'Infinity', 'Object', 'Array', 'Map', 'Set', 'WeakMap', 'String', 'JSON', 'DataView'],
  ...['Float64', 'Float32', 'Int32', 'Uint32', 'Int16', 'Uint16', 'Int8', 'Uint8'].map((kind) => `${kind}Array`),
];

export default {
  // Generous, so that a busy machine is slow and not wrong; what hangs is found all the same.
  testTimeout: 120_000,
  projects: [
    {
      displayName: 'node',
      rootDir: root,
      testEnvironment: 'node',
      setupFilesAfterEnv: ['<rootDir>/core/test/seed.ts'],
      sandboxInjectedGlobals: GLOBALS,
      roots: ['<rootDir>/core', '<rootDir>/cli', '<rootDir>/server'],
      testMatch: ['**/*.spec.ts'],
      moduleNameMapper: core,
      // A synthesizer that comes as modules only.
      transformIgnorePatterns: ['node_modules/(?!spessasynth_core|stb-vorbis)'],
      transform: {
        '\\.[mc]?[tj]s$': [
          'ts-jest',
          {
            tsconfig: {
              module: 'commonjs',
              target: 'es2022',
              esModuleInterop: true,
              isolatedModules: true,
              allowJs: true,
            },
            diagnostics: false,
          },
        ],
      },
    },
    {
      displayName: 'app',
      rootDir: `${root}/app`,
      testEnvironment: 'jest-environment-jsdom',
      sandboxInjectedGlobals: GLOBALS,
      testMatch: ['<rootDir>/test/**/*.spec.ts'],
      setupFilesAfterEnv: ['<rootDir>/test/setup.ts', '<rootDir>/../core/test/seed.ts'],
      moduleNameMapper: {
        ...core,
        '\\.svg$': '<rootDir>/test/svg.ts',
        // Only a browser can start these.
        'workers/(analysis|audio|bank|batch|import|journal|keeping|wav)-worker$': '<rootDir>/test/no-worker.ts',
      },
      transform: {
        '\\.(ts|mjs|js|html)$': [
          'jest-preset-angular',
          { tsconfig: '<rootDir>/tsconfig.spec.json', stringifyContentPathRegex: '\\.html$' },
        ],
      },
      transformIgnorePatterns: ['node_modules/(?!.*\\.mjs$|dexie|marked|@ngrx|spessasynth_core|stb-vorbis)'],
    },
  ],
};
