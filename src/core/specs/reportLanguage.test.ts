import type * as Reports from './report';
import type { Judged } from './verdicts';
import { builtInSpecs } from './builtIn';

/** The module as it is where another language is spoken: in a worker the page tells it by the name. */
async function inLanguage(name: string): Promise<typeof Reports> {
  jest.resetModules();
  Object.assign(globalThis, { name });
  try {
    return await import('./report');
  } finally {
    Object.assign(globalThis, { name: undefined });
  }
}

test('numbers in CSV are the same in every language: points, and no thousands', async () => {
  const judged = { rateHz: 48_000, channels: 1, frames: 1, durationSeconds: 12.3456 } as Judged;
  const file = {
    ...{ fileName: 'a.wav', part: 'A', format: null, bytes: 1, sha256: '', judged },
    ...{ verdicts: [], looks: [], mistake: null },
  };
  const report = { project: '', spec: builtInSpecs[0], madeAt: '', files: [file] };
  const english = (await inLanguage('en')).reportCsv(report);
  expect(english).toContain('12.346');
  expect((await inLanguage('de')).reportCsv(report)).toBe(english);
});
