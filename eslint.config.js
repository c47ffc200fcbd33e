import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import globals from 'globals';
import ts from 'typescript-eslint';

const typed = {
  '@typescript-eslint/await-thenable': 'error',
  '@typescript-eslint/no-array-delete': 'error',
  '@typescript-eslint/no-floating-promises': 'error',
  '@typescript-eslint/no-for-in-array': 'error',
  '@typescript-eslint/no-implied-eval': 'error',
  '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { arguments: false } }],
  '@typescript-eslint/no-unnecessary-type-assertion': 'error',
  '@typescript-eslint/only-throw-error': 'error',
  '@typescript-eslint/require-await': 'error',
  '@typescript-eslint/restrict-plus-operands': 'error',
  '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
};

export default ts.config(
  {
    ignores: ['**/dist/**', '**/node_modules/**', '**/*.generated.ts', 'demo/data/**', 'docs/**', 'coverage/**'],
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  {
    rules: {
      'no-console': 'error',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-eval': 'error',
      'no-new-func': 'error',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
    },
  },
  {
    files: ['packages/*/src/**/*.ts', 'demo/src/**/*.ts', 'examples/*/*.ts'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: typed,
  },
  { files: ['packages/flintwright/**', 'examples/**'], languageOptions: { globals: globals.browser } },
  {
    files: ['scripts/**', 'attack/**', 'bench/**', '*.js', '*.cjs', 'packages/cli/bin/**'],
    languageOptions: { globals: { ...globals.node, ...globals.browser } },
    rules: { 'no-console': 'off', '@typescript-eslint/no-require-imports': 'off' },
  },
  prettier,
);
