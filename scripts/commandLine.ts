import { printable } from '@/core/base/printable';
import { isError, type FileError, type FileProof } from '@/node/proofFile';

/** Who reads along may have seen enough: `| head` closes what is printed to. */
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit(process.exitCode ?? 0);
});

const say = (text: string) => console.log(printable(text));
export const complain = (text: string) => console.error(printable(text));

/** Ends with what is wrong and how the command is given; exit code 2. */
export function failWith(message: string, usage: string): never {
  complain(message);
  console.error(usage);
  process.exit(2);
}

export { isError as isFailure };

/** A file with its verdicts, or why there are none; `failed` says what could not be done with it. */
export function printProof(result: FileProof | FileError, failed: string): void {
  if (isError(result)) return say(`${failed}  ${result.error}`);
  say(`${result.passes ? 'passes' : 'FAULTS'}  ${result.file}  (${result.spec})`);
  if (result.mistake) say(`  fault  ${result.mistake}`);
  for (const { passes, message } of result.verdicts) say(`  ${passes ? 'ok   ' : 'fault'}  ${message}`);
  for (const { message } of result.looks) say(`  look   ${message}`);
  for (const remark of result.remarks) say(`  note   ${remark}`);
}

/** JSON leaves some control characters as they are; a terminal obeys them. */
export const printJson = (value: unknown): void =>
  console.log(JSON.stringify(value, null, 2).split('\n').map(printable).join('\n'));
