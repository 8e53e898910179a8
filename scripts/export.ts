/**
 * npm run export -- PROJECT-FILE --out FOLDER [--part 1,3 | --all] [--format wav24|…]
 *   [--what mix|voices|each|bed] [--replace] [--json]
 *
 * Exit code 0: all pass their spec, 1: faults, 2: something could not be read or written.
 */
import { existsSync, mkdirSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { format as formatDate } from 'date-fns';
import { toParolaError } from '@/core/base/errors';
import { exportProject, plannedFiles, recordingsOf, type ExportRequest } from '@/node/exportProject';
import { ProjectFile } from '@/node/projectFile';
import { deliveredSounds } from '../src/core/delivery/partFiles';
import { fitFormat, type FileFormat } from '@/core/specs/fileFormat';
import { encoders } from '@/workers/encoders';
import { complain, failWith, isFailure, printProof, printJson } from './commandLine';

const formats = {
  wav16: { container: 'wav', encoding: 'pcm16' },
  wav24: { container: 'wav', encoding: 'pcm24' },
  wav32f: { container: 'wav', encoding: 'float32' },
  aiff: { container: 'aiff', encoding: 'pcm24' },
  flac: { container: 'flac', encoding: 'pcm24' },
  mp3: { container: 'mp3', encoding: 'pcm16' },
} as const satisfies Record<string, Partial<FileFormat>>;

const usage = `npm run --silent export -- PROJECT-FILE --out FOLDER [--part 1,3 | --all]
  [--format ${Object.keys(formats).join('|')}] [--what ${deliveredSounds.join('|')}] [--replace] [--json]
Without --format, the files that the project's specification wants. Without --part, all parts.`;

const fail = (message: string) => failWith(message, usage);

function readArguments() {
  try {
    const { values, positionals } = parseArgs({
      allowPositionals: true,
      options: {
        out: { type: 'string' },
        part: { type: 'string' },
        all: { type: 'boolean', default: false },
        format: { type: 'string' },
        what: { type: 'string', default: 'mix' },
        replace: { type: 'boolean', default: false },
        json: { type: 'boolean', default: false },
      },
    });
    return { ...values, names: positionals };
  } catch (error) {
    return fail((error as Error).message);
  }
}

function partNumbers(text: string): number[] {
  const numbers = text.split(',').map((number) => Number(number.trim()));
  if (numbers.some((number) => !Number.isInteger(number) || number < 1))
    fail(`“${text}” names no parts. Write their numbers, such as --part 1,3.`);
  return [...new Set(numbers)].sort((a, b) => a - b);
}

/** Only the last folder is made: what is misspelt before it is told. */
function makeFolder(folder: string): void {
  try {
    if (!existsSync(folder)) mkdirSync(folder);
  } catch (error) {
    fail(`The folder ${folder} cannot be made (${(error as Error).message}). Name another one.`);
  }
}

async function main() {
  const { names, out, part, all, format, what, replace, json } = readArguments();
  if (names.length !== 1) fail('Name one project file.');
  if (!out) return fail('Say where the files go: --out FOLDER.');
  if (part !== undefined && all) fail('Choose --part or --all, not both.');
  if (format !== undefined && !Object.hasOwn(formats, format)) fail(`There is no format “${format}”.`);
  const sound = deliveredSounds.find((one) => one === what) ?? fail(`“${what}” is nothing a part has.`);
  const project = await ProjectFile.open(names[0]).catch((error: unknown) =>
    fail(toParolaError(error).message),
  );
  try {
    const { file } = project.manifest.project.spec;
    const request: ExportRequest = {
      project,
      folder: out,
      parts: part === undefined ? null : partNumbers(part),
      format: format ? fitFormat({ ...file, ...formats[format as keyof typeof formats] }) : null,
      what: sound,
      replace,
      encoders,
      date: formatDate(new Date(), 'yyyy-MM-dd'),
    };
    const files = plannedFiles(request);
    if (files.length === 0)
      fail(
        sound === 'bed'
          ? 'There is nothing to write: these parts have no bed.'
          : 'There is nothing to write: nothing is recorded in these parts.',
      );
    await project.check(recordingsOf(request));
    makeFolder(out);
    for (const sentence of project.left) complain(sentence);
    const results = await exportProject(request, files, (name) => json || complain(`writing  ${name}`));
    process.exitCode = results.some(isFailure)
      ? 2
      : results.every((result) => !isFailure(result) && result.passes)
        ? 0
        : 1;
    if (json) printJson(results);
    else results.forEach((result) => printProof(result, 'not written'));
  } finally {
    await project.close();
  }
  // The encoder of FLAC leaves a thread behind.
  process.exit();
}

void main().catch((error: unknown) => fail(toParolaError(error).message));
