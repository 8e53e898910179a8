import shared from './jest.shared.mjs';

/** End-to-end tests: the real interface in headless Chromium, against the built application. */
export default {
  ...shared,
  roots: ['<rootDir>/e2e'],
  testMatch: ['**/*.e2e.ts'],
  testSequencer: '<rootDir>/e2e/support/sequencer.mjs',
  testEnvironment: '<rootDir>/e2e/support/environment.mjs',
  globalSetup: '<rootDir>/e2e/support/global-setup.ts',
  setupFilesAfterEnv: ['<rootDir>/e2e/support/after.ts'],
  globalTeardown: '<rootDir>/e2e/support/global-teardown.ts',
  testTimeout: 180_000,
  // Most of the time is spent recording and playing, which no machine does faster.
  maxWorkers: 2,
  forceExit: true,
};
