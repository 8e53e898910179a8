/**
 * Sound in a headless browser runs in real time, and a shared machine sometimes holds it up. A test that fails is tried again, and the failure is
 * printed, so that it is not forgotten.
 */
jest.retryTimes(2, { logErrorsBeforeRetry: true });
