/** Unit tests: they stand beside what they test. */
export default {
  testEnvironment: 'node',
  roots: ['<rootDir>/src', '<rootDir>/scripts'],
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  transform: {
    '^.+\\.(tsx?|js)$': [
      '@swc/jest',
      { jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true } } },
    ],
  },
  // Published as ES modules only.
  transformIgnorePatterns: [
    '/node_modules/(?!(mpg123-decoder|@wasm-audio-decoders|@eshaz|simple-yenc|idb|@zip\\.js)/)',
  ],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  maxWorkers: 2,
};
