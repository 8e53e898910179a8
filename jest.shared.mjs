/** What unit and end-to-end tests share: TypeScript and ES modules through swc. */
export default {
  // A global is slow to reach inside a test's sandbox; these stand in inner loops.
  sandboxInjectedGlobals: [
    'Math',
    'Float32Array',
    'Float64Array',
    'Object',
    'Number',
    'Array',
    'Infinity',
    'Uint8Array',
    'Int32Array',
    'DataView',
  ],
  testEnvironment: 'node',
  transform: {
    '^.+\\.(tsx?|m?js)$': [
      '@swc/jest',
      { jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true } } },
    ],
  },
  // Published as ES modules only.
  transformIgnorePatterns: [
    '/node_modules/(?!(mpg123-decoder|@wasm-audio-decoders|@eshaz|simple-yenc|idb|quickselect|@mediabunny|@zip\\.js)/)',
  ],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
};
