// Changes the code of a folder in small ways and counts how many of the changes the tests in that folder notice: `npm run mutate -- src/core/specs`.
import { existsSync } from 'node:fs';
import path from 'node:path';
import { start } from './setup/install.mjs';

const targets = process.argv.slice(2);
if (targets.length === 0 || targets.some((target) => !existsSync(target))) {
  console.error('Name folders or files that exist: npm run mutate -- src/core/specs');
  process.exit(1);
}
const mutate = targets.flatMap((target) =>
  /\.tsx?$/.test(target) ? [target] : [`${target}/**/*.ts`, `!${target}/**/*.test.ts`],
);
// Tests stand beside what they test; those further away would notice more, and take hours.
const folders = targets.map((target) => (/\.tsx?$/.test(target) ? path.dirname(target) : target));
process.env.MUTATED_FOLDERS = JSON.stringify(folders);
const ended = await start('npx', ['stryker', 'run', 'stryker.config.mjs', '--mutate', mutate.join(',')]);
process.exit(ended ? 0 : 1);
