/** What unit and end-to-end tests share: TypeScript and ES modules through swc. */
export default {
  testEnvironment: 'node',
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
};
