import shared from './jest.shared.mjs';

/** End-to-end tests: the real interface in headless Chromium, against the built application. */
export default {
  ...shared,
  roots: ['<rootDir>/e2e'],
  testMatch: ['**/*.e2e.ts'],
  globalSetup: '<rootDir>/e2e/support/global-setup.ts',
  setupFilesAfterEnv: ['<rootDir>/e2e/support/after.ts'],
  globalTeardown: '<rootDir>/e2e/support/global-teardown.ts',
  testTimeout: 120_000,
  maxWorkers: 1,
  forceExit: true,
};
