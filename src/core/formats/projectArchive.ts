import { say } from '../../texts/say';
import { TextWriter, type Entry, type ZipReader } from '@zip.js/zip.js';
import { ParolaError } from '../base/errors';
import { limits } from './manifestLimits';
import { manifestName } from './projectManifest';

/**
 * The entries of an archive by their names. Throws where they take more bytes than the file has, which is
 * only so when they lie over one another: a few kilobytes could stand for gigabytes.
 */
export async function readEntries(zip: ZipReader<unknown>, fileBytes: number): Promise<Map<string, Entry>> {
  const entries = await zip.getEntries();
  if (entries.length > mostEntries) throw notWhole();
  const taken = entries.reduce((sum, { compressedSize }) => sum + compressedSize, 0);
  if (taken > fileBytes) throw notWhole();
  return new Map(entries.map((entry) => [entry.filename, entry]));
}

const mostEntries = limits.sources + 1000;

export const notWhole = () =>
  new ParolaError(
    'damaged-file',
    say`This is not a whole project file. Nothing was opened; try another copy of it.`,
  );

export async function manifestText(entries: Map<string, Entry>): Promise<string> {
  const entry = entries.get(manifestName);
  if (!entry || entry.directory) {
    throw new ParolaError(
      'damaged-file',
      say`This is not a Parola project file: there is no ${manifestName} in it.`,
    );
  }
  if (entry.uncompressedSize > 512e6)
    throw new ParolaError('too-large', say`The ${manifestName} of this project file is too large to be one.`);
  return entry.getData(new TextWriter());
}
