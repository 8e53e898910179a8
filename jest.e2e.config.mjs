/** End-to-end tests: the real interface in headless Chromium, against the built application. */
export default {
  testEnvironment: 'node',
  roots: ['<rootDir>/e2e'],
  testMatch: ['**/*.e2e.ts'],
  transform: {
    '^.+\\.tsx?$': ['@swc/jest', { jsc: { target: 'es2022', parser: { syntax: 'typescript' } } }],
  },
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  globalSetup: '<rootDir>/e2e/support/global-setup.ts',
  globalTeardown: '<rootDir>/e2e/support/global-teardown.ts',
  testTimeout: 120_000,
  maxWorkers: 1,
};
