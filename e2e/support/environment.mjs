import { TestEnvironment } from 'jest-environment-node';

/** Tells what the pages said when a test failed: the reason is often there, not in what was waited for. */
export default class TellingEnvironment extends TestEnvironment {
  async handleTestEvent(event) {
    if (event.name === 'test_fn_failure' || event.name === 'hook_failure') await this.global.tellPages?.();
  }
}
