import shared from './jest.shared.mjs';

/** Unit tests: they stand beside what they test. */
export default {
  ...shared,
  roots: ['<rootDir>/src', '<rootDir>/scripts'],
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  testTimeout: 20_000,
  maxWorkers: 2,
};
