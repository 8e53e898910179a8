/**
 * npm run proof -- FILE|FOLDER… --spec NAME|FILE.json [--json] [--report FILE.html|.csv|.json]. Exit code 0:
 * all pass, 1: faults, 2: something could not be read.
 */
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { toParolaError } from '@/core/base/errors';
import { builtInSpecs } from '@/core/specs/builtIn';
import { reportCsv, reportHtml, reportJson } from '@/core/specs/report';
import {
  isError,
  proofsOf,
  reportOf,
  tryMeasureFile,
  type FileError,
  type MeasuredFile,
} from '@/node/proofFile';
import { filesOf } from '@/node/soundFiles';
import { specFromArgument } from '@/node/specSource';
import { complain, failWith, printJson, printProof } from './commandLine';

const usage = `npm run proof -- FILE|FOLDER… --spec NAME|FILE.json [--json] [--report FILE.html|.csv|.json]\nSpecs: ${builtInSpecs.map((spec) => spec.name).join(', ')}`;

const reports = { '.html': reportHtml, '.csv': reportCsv, '.json': reportJson };

function readArguments() {
  try {
    const { values, positionals } = parseArgs({
      allowPositionals: true,
      options: {
        spec: { type: 'string', default: '' },
        json: { type: 'boolean', default: false },
        report: { type: 'string' },
      },
    });
    return { ...values, names: positionals };
  } catch (error) {
    return fail((error as Error).message);
  }
}

const fail = (message: string) => failWith(message, usage);

async function main() {
  const { names, spec: wanted, json, report } = readArguments();
  const write = report === undefined ? null : reports[path.extname(report) as keyof typeof reports];
  if (write === undefined) fail('A report is a file that ends in .html, .csv or .json.');
  const spec = await specFromArgument(wanted).catch((error: unknown) => fail(toParolaError(error).message));
  if (names.length === 0) fail('Name at least one file or folder.');
  const { files, problems } = await filesOf(names);
  if (files.length + problems.length === 0) fail('There is no WAV, AIFF, FLAC or MP3 file in there.');
  const measured: (MeasuredFile | FileError)[] = problems.map(({ name, problem }) => ({
    file: name,
    error: `${name}: ${problem}`,
    code: 'not-found',
  }));
  for (const { path: file, name } of files) measured.push(await tryMeasureFile(file, name));
  const whole = measured.filter((result): result is MeasuredFile => !isError(result));
  const proofs = proofsOf(whole, spec);
  const results = measured.map((result) => (isError(result) ? result : proofs[whole.indexOf(result)]));
  // First of all what was found: a report that cannot be written takes nothing with it.
  process.exitCode = results.some(isError) ? 2 : proofs.every(({ passes }) => passes) ? 0 : 1;
  if (json) printJson(results);
  else results.forEach((result) => printProof(result, 'cannot read'));
  if (!report || !write) return;
  try {
    writeFileSync(report, write(reportOf(path.basename(path.resolve(names[0])), whole, spec)));
    for (const { file } of results.filter(isError)) complain(`Not in the report: ${file}`);
  } catch (error) {
    process.exitCode = 2;
    complain(`The report cannot be written to ${report} (${(error as Error).message}). Name another file.`);
  }
}

void main().catch((error: unknown) => {
  complain(`Something went wrong that should not: ${toParolaError(error).message}`);
  process.exit(2);
});
