/**
 * npm run fuzz [-- COUNT [FIRST SEED]]: odd and hostile sound files, project files and requests, then every
 * reader on so many damaged files. Exit code 1 names each one that broke the rules.
 */
import { oddProjects } from './projects';
import { randomDamage } from './random';
import { oddRequests } from './requests';
import { oddSounds } from './sounds';

async function main() {
  const count = Number(process.argv[2] ?? 200_000);
  const first = Number(process.argv[3] ?? 1);
  // Decoders tell the console of what they cannot read.
  console.error = () => undefined;
  console.warn = () => undefined;
  let broken = 0;
  for (const [what, run] of [
    ['sound files', oddSounds],
    ['project files', oddProjects],
    ['requests', oddRequests],
    ['damaged files', () => randomDamage(count, first)],
  ] as const) {
    const result = await run();
    for (const line of result.broken.slice(0, 40)) console.log(line);
    console.log(
      `fuzz: ${result.tried} ${what}, ${result.refused} refused with a reason, ${result.broken.length} broke the rules`,
    );
    broken += result.broken.length;
  }
  process.exit(broken === 0 ? 0 : 1);
}

void main();
