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
  filesOf,
  isError,
  proofsOf,
  reportOf,
  tryMeasureFile,
  type FileError,
  type FileProof,
  type MeasuredFile,
} from '@/node/proofFile';
import { specFromArgument } from '@/node/specSource';

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

function fail(message: string): never {
  console.error(`${message}\n${usage}`);
  process.exit(2);
}

function print(result: FileProof | FileError) {
  if (isError(result)) return console.log(`cannot read  ${result.error}`);
  console.log(`${result.passes ? 'passes' : 'FAULTS'}  ${result.file}  (${result.spec})`);
  if (result.mistake) console.log(`  fault  ${result.mistake}`);
  for (const { passes, message } of result.verdicts)
    console.log(`  ${passes ? 'ok   ' : 'fault'}  ${message}`);
  for (const { message } of result.looks) console.log(`  look   ${message}`);
  for (const remark of result.remarks) console.log(`  note   ${remark}`);
}

async function main() {
  const { names, spec: wanted, json, report } = readArguments();
  const write = report === undefined ? null : reports[path.extname(report) as keyof typeof reports];
  if (write === undefined) fail('A report is a file that ends in .html, .csv or .json.');
  const spec = await specFromArgument(wanted).catch((error: unknown) => fail(toParolaError(error).message));
  if (names.length === 0) fail('Name at least one file or folder.');
  const files = await filesOf(names);
  if (files.length === 0) fail('There is no WAV, AIFF, FLAC or MP3 file in there.');
  const measured: (MeasuredFile | FileError)[] = [];
  for (const file of files) measured.push(await tryMeasureFile(file));
  const whole = measured.filter((result): result is MeasuredFile => !isError(result));
  const proofs = proofsOf(whole, spec);
  const results = measured.map((result) => (isError(result) ? result : proofs[whole.indexOf(result)]));
  if (report && write) {
    writeFileSync(report, write(reportOf(path.basename(path.resolve(names[0])), whole, spec)));
    for (const { file } of results.filter(isError)) console.error(`Not in the report: ${file}`);
  }
  if (json) console.log(JSON.stringify(results, null, 2));
  else results.forEach(print);
  if (results.some(isError)) process.exitCode = 2;
  else process.exitCode = proofs.every(({ passes }) => passes) ? 0 : 1;
}

void main();
