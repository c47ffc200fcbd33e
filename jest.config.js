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
  testEnvironment: './scripts/browser-environment.mjs',
  testSequencer: './scripts/test-order.mjs',
  globalSetup: './scripts/test-setup.mjs',
  testTimeout: 90000,
  maxWorkers: 2,
  // With --coverage: the core's lines, generated code aside.
  coverageProvider: 'v8',
  collectCoverageFrom: ['packages/core/dist/**/*.js'],
  coverageReporters: ['text-summary'],
  coverageThreshold: { global: { lines: 90 } },
};
