// Changes the code of a folder in small ways and counts how many of the changes the tests in that folder
// notice: `npm run mutate -- src/core/specs`. `--without NAME` leaves a test file out that would take hours,
// once for each.
import { existsSync } from 'node:fs';
import path from 'node:path';
import { start } from './setup/install.mjs';

const without = process.argv.flatMap((word, at) => (process.argv[at - 1] === '--without' ? [word] : []));
const targets = process.argv.slice(2).filter((word) => word !== '--without' && !without.includes(word));
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
process.env.MUTATED_WITHOUT = JSON.stringify(without);
process.env.MUTATED_FOLDERS = JSON.stringify(folders);
const ended = await start('npx', ['stryker', 'run', 'stryker.config.mjs', '--mutate', mutate.join(',')]);
process.exit(ended ? 0 : 1);
