import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { createRequire } from 'node:module';

const require = createRequire(import.meta.url);
const { default: Sequencer } = require('@jest/test-sequencer');

/** Test files with their tests and times, from the run without a change. */
const known = path.resolve('.cache/mutation-tests.json');
const nameOf = (file) => path.relative('.', file);

/** Loads only the files that hold a test asked for, the quickest first. */
export default class QuickestFirst extends Sequencer {
  constructor(options) {
    super(options);
    this.pattern = options.globalConfig.testNamePattern;
  }

  sort(tests) {
    if (!this.pattern) return tests;
    const files = JSON.parse(readFileSync(known, 'utf8'));
    const asked = new RegExp(this.pattern, 'i');
    return tests
      .filter(({ path: file }) => files[nameOf(file)].names.some((name) => asked.test(name)))
      .sort((a, b) => files[nameOf(a.path)].ms - files[nameOf(b.path)].ms);
  }

  cacheResults(_tests, { testResults }) {
    if (this.pattern || process.env.__STRYKER_ACTIVE_MUTANT__ !== undefined) return;
    const files = testResults.map(({ testFilePath, testResults: found, perfStats }) => [
      nameOf(testFilePath),
      { names: found.map(({ fullName }) => fullName), ms: perfStats.end - perfStats.start },
    ]);
    mkdirSync(path.dirname(known), { recursive: true });
    writeFileSync(known, JSON.stringify(Object.fromEntries(files)));
  }
}
