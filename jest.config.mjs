const core = { '^@early-sparrow/core/(.*)$': '<rootDir>/core/src/$1/index.ts' };
const ts = [
  'ts-jest',
  {
    tsconfig: { module: 'commonjs', target: 'es2022', esModuleInterop: true, isolatedModules: true, allowJs: true },
    diagnostics: false,
  },
];

export default {
  projects: [
    {
      displayName: 'node',
      rootDir: '.',
      testEnvironment: 'node',
      roots: ['core', 'cli', 'server', 'tools'],
      testMatch: ['**/*.spec.ts'],
      moduleNameMapper: core,
      transform: { '\\.(ts|mjs|js)$': ts },
    },
  ],
};
