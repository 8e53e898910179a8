import type { Dirent } from 'node:fs';
import { opendir, readdir, stat } from 'node:fs/promises';
import path from 'node:path';

const soundEndings = /\.(wav|wave|bwf|rf64|aif|aiff|aifc|flac|mp3)$/i;

/** A file to measure: where it is, in bytes where its name is not UTF-8, and what it is called. */
export interface NamedFile {
  path: string | Buffer;
  name: string;
}

export interface FoundFiles {
  files: NamedFile[];
  /** What was named and cannot be measured, with why. */
  problems: { name: string; problem: string }[];
}

/** Folders within folders within folders: deeper than this nobody keeps deliveries. */
const mostDepth = 100;

/**
 * The sound files that are named, folders with everything in them, in the order of their names: regular files
 * only, each once, however many names lead to it. Links to folders are not followed, so that one that leads
 * back measures nothing twice.
 */
export async function filesOf(names: readonly string[]): Promise<FoundFiles> {
  const found: FoundFiles = { files: [], problems: [] };
  const seen = new Set<string>();
  const add = async (file: NamedFile) => {
    const known = await stat(file.path);
    const id = `${known.dev}:${known.ino}`;
    if (seen.has(id)) return;
    seen.add(id);
    found.files.push(file);
  };
  for (const given of names) {
    const file = await byName(given);
    const kind = await stat(file.path).catch(() => null);
    if (!kind) found.problems.push({ name: given, problem: 'There is no such file, or it may not be read.' });
    else if (kind.isFile()) await add(file);
    else if (kind.isDirectory()) await walk(file, 0, add, found.problems);
    else found.problems.push({ name: given, problem: 'This is neither a file nor a folder.' });
  }
  return found;
}

async function walk(
  folder: NamedFile,
  depth: number,
  add: (file: NamedFile) => Promise<void>,
  problems: FoundFiles['problems'],
): Promise<void> {
  let entries: Dirent<Buffer>[];
  try {
    entries = await readdir(folder.path, { withFileTypes: true, encoding: 'buffer' });
  } catch {
    problems.push({ name: folder.name, problem: 'This folder may not be read.' });
    return;
  }
  const named = entries.map((entry) => ({ entry, text: entry.name.toString() }));
  named.sort((a, b) => a.text.localeCompare(b.text, 'en', { numeric: true }));
  for (const { entry, text } of named) {
    const file = { path: within(folder.path, entry.name), name: path.join(folder.name, text) };
    if (entry.isDirectory()) {
      if (depth < mostDepth) await walk(file, depth + 1, add, problems);
      continue;
    }
    if (!soundEndings.test(text)) continue;
    const isFile =
      entry.isFile() ||
      (entry.isSymbolicLink() &&
        (await stat(file.path).then(
          (target) => target.isFile(),
          () => false,
        )));
    if (isFile) await add(file);
  }
}

/** A name that is not UTF-8 is kept as the bytes it is. */
function within(folder: string | Buffer, name: Buffer): string | Buffer {
  const text = name.toString();
  const isText = Buffer.from(text).equals(name);
  if (isText && typeof folder === 'string') return path.join(folder, text);
  return Buffer.concat([Buffer.from(folder), Buffer.from(path.sep), name]);
}

/** Bytes of a command line that are no UTF-8 have become this by the time they arrive. */
const lost = '\uFFFD';

/** A name from the command line; where bytes of it were lost, the entry of its folder that reads like it. */
async function byName(name: string): Promise<NamedFile> {
  if (!name.includes(lost) || (await stat(name).catch(() => null))) return { path: name, name };
  const folder = path.dirname(name);
  const wanted = path.basename(name);
  try {
    for await (const entry of await opendir(folder, { encoding: 'buffer' as BufferEncoding })) {
      const bytes = entry.name as unknown as Buffer;
      if (bytes.toString() === wanted) return { path: within(folder, bytes), name };
    }
  } catch {
    // Then it is not there, as its caller will find.
  }
  return { path: name, name };
}
