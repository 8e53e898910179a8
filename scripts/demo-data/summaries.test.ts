import { readFileSync } from 'node:fs';
import { summariesOf } from './summaries';

test('what the demo says of its recordings is what is measured of them', async () => {
  const demo = JSON.parse(readFileSync('public/demo/demo.json', 'utf8')) as {
    summaries: unknown;
    rateHz: number;
  };
  expect(await summariesOf('public/demo', demo.rateHz)).toEqual(demo.summaries);
});
