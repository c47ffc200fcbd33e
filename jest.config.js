/** What both projects share: TypeScript without a build, and the sources of the packages in place of their `dist`. */
const shared = {
  extensionsToTreatAsEsm: ['.ts'],
  transform: {
    '^.+\\.ts$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'es6' } },
    ],
  },
  modulePathIgnorePatterns: ['<rootDir>/.*/dist/'],
  resolver: './scripts/source-resolver.cjs',
  testEnvironmentOptions: { customExportConditions: ['@flintwright/source', 'node', 'node-addons'] },
};

export default {
  testTimeout: 90000,
  maxWorkers: 2,
  // With --coverage: the lines of the core, without generated code.
  coverageProvider: 'v8',
  collectCoverageFrom: ['packages/core/src/**/*.ts', '!**/*.generated.ts'],
  coverageReporters: ['text-summary'],
  coverageThreshold: { global: { lines: 90 } },
  projects: [
    {
      ...shared,
      displayName: 'core',
      // No browser, no build, no demo data: an edit is tested in seconds.
      testMatch: ['<rootDir>/packages/core/tests/**/*.test.ts', '<rootDir>/packages/flintwright/tests/unit/*.test.ts'],
      testEnvironment: './scripts/core-environment.mjs',
      globalSetup: './scripts/core-setup.mjs',
    },
    {
      ...shared,
      displayName: 'browser',
      testMatch: ['<rootDir>/packages/*/tests/**/*.test.ts'],
      testPathIgnorePatterns: ['/node_modules/', '/packages/core/tests/', '/tests/unit/'],
      testEnvironment: './scripts/browser-environment.mjs',
      globalSetup: './scripts/test-setup.mjs',
    },
  ],
  testSequencer: './scripts/test-order.mjs',
};
