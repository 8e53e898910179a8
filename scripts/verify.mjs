// Every check, on a machine with nothing but Node and npm: installs what is missing, then ends with “N
// passed, N failed”.
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { stripVTControlCharacters } from 'node:util';
import { buildApplication, installDebianPackages, installPackages, start } from './setup/install.mjs';

let passed = 0;
let failed = 0;

function step(name, succeeded) {
  console.log(`${succeeded ? 'ok' : 'FAILED'}: ${name}`);
  if (succeeded) passed++;
  else failed++;
  return succeeded;
}

const npm = (script, ...more) => start('npm', ['run', '--silent', script, ...more]);

/** Told again at the end, where they are found among what hundreds of tests have said. */
const failures = [];
const mostLines = 14;

function failuresOf({ testResults }) {
  return testResults.flatMap(({ name, assertionResults, message }) => {
    const failed = assertionResults.filter(({ status }) => status === 'failed');
    const said = (text) =>
      stripVTControlCharacters(text).split('\n').filter(Boolean).slice(0, mostLines).join('\n');
    if (failed.length === 0 && assertionResults.length === 0 && message) return [`${name}\n${said(message)}`];
    return failed.map(
      ({ fullName, failureMessages }) => `${name}: ${fullName}\n${said(failureMessages.join('\n'))}`,
    );
  });
}

/** Runs a Jest project and counts its tests; a run without a result counts as one failure. */
async function tests(name, script) {
  const report = `.cache/${script}.json`;
  const begun = Date.now();
  rmSync(report, { force: true });
  await npm(script, '--', '--json', `--outputFile=${report}`);
  try {
    const result = JSON.parse(readFileSync(report, 'utf8'));
    passed += result.numPassedTests;
    failed += result.numFailedTests + result.numRuntimeErrorTestSuites;
    const minutes = ((Date.now() - begun) / 60_000).toFixed(1);
    console.log(
      `${name}: ${result.numPassedTests} passed, ${result.numFailedTests} failed, ${minutes} minutes`,
    );
    failures.push(...failuresOf(result));
    if (result.numTotalTests === 0) step(`${name} ran`, false);
  } catch {
    step(`${name} ran`, false);
  }
}

// Types are a check of their own here.
process.env.TYPES_APART = '1';
mkdirSync('.cache', { recursive: true });
function giveUp(error) {
  console.error(error.message);
  console.log('0 passed, 1 failed');
  process.exit(1);
}
// Debian's packages come meanwhile: only tests and damaged files need them.
const debian = installDebianPackages().catch(giveUp);
await installPackages().catch(giveUp);
// Beside each other, so that no core is idle; types and damaged files need what the build generates.
const built = (async () => step('build', await buildApplication()))();
await Promise.all([
  (async () => step('lint', await npm('lint')))(),
  (async () => {
    await built;
    step('types', await npm('types'));
    step('format', await npm('format:check'));
  })(),
  (async () => {
    await Promise.all([built, debian]);
    step('10,000 damaged files', await npm('fuzz', '--', '10000'));
  })(),
]);
await tests('unit tests', 'test');
await tests('end-to-end tests', 'e2e');
for (const failure of failures) console.log(`\nFAILED: ${failure}`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed > 0 ? 1 : 0);
