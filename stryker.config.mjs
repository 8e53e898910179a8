import path from 'node:path';

/** How the tests are tested; see scripts/mutate.mjs. What is written goes to .cache. */
const folders = JSON.parse(process.env.MUTATED_FOLDERS ?? '["src"]');
const leftOut = JSON.parse(process.env.MUTATED_WITHOUT ?? '[]');

export default {
  testRunner: 'jest',
  jest: {
    configFile: 'jest.config.mjs',
    config: {
      testMatch: folders.map((folder) => `<rootDir>/${folder}/**/*.test.ts`),
      testPathIgnorePatterns: leftOut.map((name) => `/${name}\\.test\\.ts$`),
      testEnvironment: path.resolve('scripts/mutation/environment.cjs'),
      testSequencer: path.resolve('scripts/mutation/sequencer.mjs'),
    },
    enableFindRelatedTests: false,
  },
  plugins: ['@stryker-mutator/*', path.resolve('scripts/mutation/sample.mjs')],
  ignorers: ['sample'],
  coverageAnalysis: 'perTest',
  reporters: ['clear-text', 'json', 'progress-append-only'],
  jsonReporter: { fileName: '.cache/mutation.json' },
  clearTextReporter: { allowColor: false, logTests: false, reportTests: false },
  tempDirName: '.cache/stryker',
  ignorePatterns: ['.next', 'docs', 'public', '!public/demo', '.cache'],
  ignoreStatic: true,
  // Words of messages: what they say is read, not tested letter by letter; words that are values are checked
  // by the types.
  mutator: { excludedMutations: ['StringLiteral'] },
  concurrency: 2,
  timeoutMS: 5000,
  timeoutFactor: 1.25,
  disableTypeChecks: false,
};
