import shared from './jest.shared.mjs';

/** Suites in which nothing that is recorded is compared to the sample: they can run side by side. */
const besides = ['access', 'booth', 'delivery', 'finish', 'import', 'keys', 'projects', 'proof-export'].map(
  (name) => `<rootDir>/e2e/${name}.e2e.ts`,
);
const which = process.env.E2E_SUITES;

/**
 * End-to-end tests: the real interface in headless Chromium, against the built application. `E2E_SUITES` is
 * `besides`, `recording` or nothing: all of them.
 */
export default {
  ...shared,
  roots: ['<rootDir>/e2e'],
  testMatch: which === 'besides' ? besides : ['**/*.e2e.ts'],
  testPathIgnorePatterns:
    which === 'recording' ? besides.map((file) => file.replace('<rootDir>', '')) : ['/node_modules/'],
  globalSetup: '<rootDir>/e2e/support/global-setup.ts',
  setupFilesAfterEnv: ['<rootDir>/e2e/support/after.ts'],
  globalTeardown: '<rootDir>/e2e/support/global-teardown.ts',
  testTimeout: 180_000,
  maxWorkers: which === 'besides' ? 2 : 1,
  forceExit: true,
};
