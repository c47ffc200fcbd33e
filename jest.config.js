export default {
  testMatch: ['**/tests/**/*.test.ts'],
  extensionsToTreatAsEsm: ['.ts'],
  transform: {
    '^.+\\.ts$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'es6' } },
    ],
  },
  modulePathIgnorePatterns: ['<rootDir>/.*/dist/'],
  globalSetup: './scripts/test-setup.mjs',
  testTimeout: 90000,
  maxWorkers: 2,
};
