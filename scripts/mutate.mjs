// Changes the code of a folder in small ways and counts how many of the changes the tests in that folder
// notice: `npm run mutate -- src/core/specs`. `--without NAME` leaves a test file out that would take hours,
// once for each; `--share 0.3` tries a part of the changes, the same each time.
import { existsSync } from 'node:fs';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { start } from './setup/install.mjs';

const { values, positionals: targets } = parseArgs({
  allowPositionals: true,
  options: { without: { type: 'string', multiple: true }, share: { type: 'string' } },
});
if (targets.length === 0 || targets.some((target) => !existsSync(target))) {
  console.error('Name folders or files that exist: npm run mutate -- src/core/specs');
  process.exit(1);
}
const mutate = targets.flatMap((target) =>
  /\.tsx?$/.test(target) ? [target] : [`${target}/**/*.ts`, `!${target}/**/*.test.ts`],
);
// Tests stand beside what they test; those further away would notice more, and take hours.
const folders = targets.map((target) => (/\.tsx?$/.test(target) ? path.dirname(target) : target));
process.env.SEEDS ??= '4';
process.env.MUTATED_SHARE = values.share ?? '1';
process.env.MUTATED_WITHOUT = JSON.stringify(values.without ?? []);
process.env.MUTATED_FOLDERS = JSON.stringify(folders);
const ended = await start('npx', ['stryker', 'run', 'stryker.config.mjs', '--mutate', mutate.join(',')]);
process.exit(ended ? 0 : 1);
