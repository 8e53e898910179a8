/** How the tests are tested; see scripts/mutate.mjs. What is written goes to .cache. */
const folders = JSON.parse(process.env.MUTATED_FOLDERS ?? '["src"]');

export default {
  testRunner: 'jest',
  jest: {
    configFile: 'jest.config.mjs',
    config: { testMatch: folders.map((folder) => `<rootDir>/${folder}/**/*.test.ts`) },
    enableFindRelatedTests: false,
  },
  coverageAnalysis: 'perTest',
  reporters: ['clear-text', 'json'],
  jsonReporter: { fileName: '.cache/mutation.json' },
  clearTextReporter: { allowColor: false, logTests: false, reportTests: false },
  tempDirName: '.cache/stryker',
  ignorePatterns: ['.next', 'docs', 'public', '!public/demo', '.cache'],
  ignoreStatic: true,
  concurrency: 2,
  timeoutMS: 10_000,
  timeoutFactor: 2,
  disableTypeChecks: false,
};
