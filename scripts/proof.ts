/** npm run proof -- FILE… --spec NAME [--json]. Exit code 0: all pass, 1: faults, 2: something could not be read. */
import { parseArgs } from 'node:util';
import { builtInSpecs, findSpec } from '@/core/specs/builtIn';
import { tryProofFile, type FileError, type FileProof } from '@/node/proofFile';

const usage = `npm run proof -- FILE… --spec NAME [--json]\nSpecs: ${builtInSpecs.map((spec) => spec.name).join(', ')}`;

function readArguments() {
  try {
    const { values, positionals } = parseArgs({
      allowPositionals: true,
      options: { spec: { type: 'string' }, json: { type: 'boolean', default: false } },
    });
    return { ...values, files: positionals };
  } catch (error) {
    return { files: [], json: false, spec: undefined, problem: (error as Error).message };
  }
}

function fail(message: string): never {
  console.error(`${message}\n${usage}`);
  process.exit(2);
}

const isError = (result: FileProof | FileError): result is FileError => 'error' in result;

function print(result: FileProof | FileError) {
  if (isError(result)) return console.log(`cannot read  ${result.error}`);
  console.log(`${result.passes ? 'passes' : 'FAULTS'}  ${result.file}  (${result.spec})`);
  for (const { passes, message } of result.verdicts)
    console.log(`  ${passes ? 'ok   ' : 'fault'}  ${message}`);
  for (const remark of result.remarks) console.log(`  note   ${remark}`);
}

async function main() {
  const { files, spec: name, json, ...rest } = readArguments();
  if ('problem' in rest && rest.problem) fail(rest.problem);
  if (!name) fail('Say which spec to measure against.');
  const spec = findSpec(name);
  if (!spec) fail(`There is no spec “${name}”.`);
  if (files.length === 0) fail('Name at least one file.');
  const results: (FileProof | FileError)[] = [];
  for (const file of files) results.push(await tryProofFile(file, spec));
  if (json) console.log(JSON.stringify(results, null, 2));
  else results.forEach(print);
  if (results.some(isError)) process.exitCode = 2;
  else process.exitCode = results.every((result) => !isError(result) && result.passes) ? 0 : 1;
}

void main();
