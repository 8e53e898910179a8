// Jest's runner of mutations loads this with require.
// eslint-disable-next-line @typescript-eslint/no-require-imports
const { TestEnvironment } = require('jest-environment-node');

/**
 * The change that a test has noticed; one is enough, and the tests that are left would take the most time.
 */
let noticed;

/**
 * Node, but tests after the first failing one are passed over, also in other files: Jest's own bail is not
 * there for programs.
 */
class QuickEnvironment extends TestEnvironment {
  handleTestEvent(event) {
    const change = process.env.__STRYKER_ACTIVE_MUTANT__;
    if (change === undefined) return;
    if (event.name === 'test_fn_failure') noticed = change;
    if (event.name === 'test_start' && noticed === change) event.test.mode = 'skip';
  }
}

module.exports = QuickEnvironment;
