import angular from 'angular-eslint';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['dist/**', 'node_modules/**', '.cache/**', '**/*.mjs', '**/*.cjs', 'test-results/**'] },
  {
    files: ['**/*.ts'],
    extends: [...tseslint.configs.recommended, ...tseslint.configs.stylistic],
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', ignoreRestSiblings: true }],
      '@typescript-eslint/explicit-module-boundary-types': 'error',
      eqeqeq: 'error',
      'max-lines': ['error', { max: 400, skipBlankLines: true, skipComments: true }],
    },
  },
  {
    files: ['app/src/**/*.ts'],
    extends: [...angular.configs.tsRecommended],
    processor: angular.processInlineTemplates,
    rules: {
      '@angular-eslint/component-selector': [
        'error',
        { type: ['element', 'attribute'], prefix: 'es', style: 'kebab-case' },
      ],
      '@angular-eslint/prefer-on-push-component-change-detection': 'error',
    },
  },
  {
    // The core computes: it has no clock, no chance and no screen.
    files: ['core/src/**/*.ts'],
    rules: {
      // Loops over columns by index are measurably quicker than iterators.
      '@typescript-eslint/prefer-for-of': 'off',
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'localStorage',
        'performance',
        'setTimeout',
        'setInterval',
      ],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'Random numbers come from maths/random.' },
        { object: 'Date', property: 'now', message: 'The core has no clock.' },
      ],
    },
  },
  {
    // A listener that returns false cancels its event: once every press on the desk was cancelled so.
    files: ['app/src/**/*.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "Property[key.name='host'] Property > Literal[value=/(?<![=!<>])=(?![=>])\\s*\\w+\\s*$/]",
          message: 'A host listener calls a method: an assignment returns its value, and false cancels the event.',
        },
      ],
    },
  },
  {
    // Interface tests act as hands do. Setting a value by script proves nothing of what a person can reach.
    files: ['e2e/**/*.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'CallExpression[callee.property.name=/^(fill|selectOption|dispatchEvent|setChecked|check|uncheck|evaluate|evaluateAll|evaluateHandle|waitForTimeout|focus|blur|tap)$/]',
          message: 'Use the real pointer and keys (hands.ts), and wait for what can be waited for.',
        },
        {
          selector: "Property[key.name='force']",
          message: 'What needs force is not reachable for a hand.',
        },
      ],
    },
  },
  {
    // These measure, take pictures, or stand in for other programs: none of that is acting on the page.
    files: [
      'e2e/bench-desk.ts',
      'e2e/bench-first.ts',
      'e2e/bench-files.ts',
      'e2e/bench-live.ts',
      'e2e/bench-long.ts',
      'e2e/bench-song.ts',
      'e2e/bench-tracks.ts',
      'e2e/files.ts',
      'e2e/firefox.ts',
      'e2e/frames.ts',
      'e2e/screenshots.ts',
    ],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'CallExpression[callee.property.name=/^(fill|selectOption|dispatchEvent|setChecked|check|focus|blur|tap)$/]',
          message: 'Use the real pointer and keys (hands.ts).',
        },
      ],
    },
  },
  {
    files: ['app/src/**/*.html'],
    extends: [...angular.configs.templateRecommended, ...angular.configs.templateAccessibility],
    rules: { '@angular-eslint/template/prefer-control-flow': 'error' },
  },
);
