import { say } from '@/texts/say';
import { format } from '@/texts/dates';
import { createSHA256 } from 'hash-wasm';
import { ParolaError } from '@/core/base/errors';
import { toCopyError } from '@/core/keep/copyErrors';
import { audioFolder, audioPath, filmFolder, filmPath, stateFolder } from '@/core/keep/copyFolder';
import { chooseState, readCopyState, type ChosenState, type CopyState } from '@/core/keep/copyState';
import { whileOpening } from '@/storage/lock';
import { newId } from '@/storage/projects';
import { fileAt, sizesIn, subfolderIfThere } from './copyFiles';
import { importManifest, type HeldFile, type ImportedProject } from './importProject';
import { sweepLeftovers } from './openProjectFile';
import type { JobContext } from './protocol';

/** A copy of a project that was found in a folder. */
export interface FoundCopy {
  /** The project's own folder; empty where it is the chosen one itself. */
  folderName: string;
  name: string;
  /** Milliseconds since 1970. */
  savedAt: number;
}

/** A state larger than this is none. */
const mostStateBytes = 512e6;

async function statesIn(home: FileSystemDirectoryHandle): Promise<string[]> {
  const sizes = await sizesIn(home, stateFolder);
  const texts: string[] = [];
  for (const [path, bytes] of sizes) {
    // The place of a state that was being written for the first time.
    if (bytes === 0 || bytes > mostStateBytes || !path.endsWith('.json')) continue;
    const file = await fileAt(home, path);
    if (file) texts.push(await file.text());
  }
  return texts;
}

async function stateIn(home: FileSystemDirectoryHandle): Promise<ChosenState | null> {
  const texts = await statesIn(home);
  if (texts.length === 0) return null;
  const listing = new Map([...(await sizesIn(home, audioFolder)), ...(await sizesIn(home, filmFolder))]);
  return chooseState(texts, listing);
}

/**
 * The copies in a folder: in itself, or each in a folder of its own inside. Those that cannot be read are not
 * among them, unless there is no other: then it throws what is wrong.
 */
export async function findCopies({ folder }: { folder: FileSystemDirectoryHandle }): Promise<FoundCopy[]> {
  try {
    const found: FoundCopy[] = [];
    let failure: unknown = null;
    const look = async (home: FileSystemDirectoryHandle, folderName: string) => {
      try {
        const chosen = await stateIn(home);
        if (chosen) found.push({ folderName, name: chosen.state.name, savedAt: chosen.state.savedAt });
      } catch (error) {
        failure ??= error;
      }
    };
    await look(folder, '');
    for await (const [name, handle] of folder.entries())
      if (handle.kind === 'directory') await look(handle as FileSystemDirectoryHandle, name);
    if (found.length === 0)
      throw (
        failure ??
        new ParolaError(
          'not-found',
          say`There is no copy of a project in “${folder.name}”. Choose the folder that was chosen for the copy, or one inside it.`,
        )
      );
    return found.sort((a, b) => b.savedAt - a.savedAt);
  } catch (error) {
    throw toCopyError(error);
  }
}

/**
 * Opens the copy of a project as a project of its own; what is missing or damaged in it is told in `left`.
 */
export async function openCopyFolder(
  { folder, folderName }: { folder: FileSystemDirectoryHandle; folderName: string },
  context: JobContext,
): Promise<ImportedProject> {
  return whileOpening(async () => {
    await sweepLeftovers();
    try {
      const home = folderName === '' ? folder : await subfolderIfThere(folder, folderName);
      const chosen = home && (await stateIn(home));
      if (!chosen)
        throw new ParolaError('not-found', say`The copy is not there any more. Choose the folder again.`);
      return await importState(home, chosen, context);
    } catch (error) {
      await sweepLeftovers();
      throw toCopyError(error);
    }
  });
}

async function importState(
  home: FileSystemDirectoryHandle,
  { text, state, refused }: ChosenState,
  context: JobContext,
): Promise<ImportedProject> {
  const oldIds = new Map<string, string>();
  const newIds = new Map<string, string>();
  const { manifest, left } = readCopyState(text, (id) => {
    const given = newIds.get(id) ?? newId();
    newIds.set(id, given);
    oldIds.set(given, id);
    return given;
  });
  const held = new Map<string, File>();
  const paths = manifest.sources.flatMap(({ id }) => {
    const old = oldIds.get(id) ?? id;
    return [audioPath(old), filmPath(old)];
  });
  for (const path of paths) {
    const file = await fileAt(home, path);
    if (file && file.size > 0) held.set(path, file);
  }
  const damaged: string[] = [];
  const heldAt = (path: (id: string) => string) => (id: string) => {
    const at = path(oldIds.get(id) ?? id);
    const told = state.files.get(at);
    const file = held.get(at);
    // What is cut short is told by how much.
    const sha256 = file?.size === told?.bytes ? told?.sha256 : undefined;
    return asHeld(file, sha256, () => damaged.push(id));
  };
  const opened = await importManifest(
    manifest,
    {
      audioOf: heldAt(audioPath),
      filmOf: heldAt(filmPath),
      where: say`this folder`,
      silenceForMissing: true,
    },
    context,
  );
  const names = manifest.sources.filter(({ id }) => damaged.includes(id)).map(({ name }) => `“${name}”`);
  return {
    ...opened,
    left: [...refused, ...olderTold(state, refused), ...left, ...opened.left, ...damageTold(names)],
  };
}

const olderTold = ({ savedAt }: CopyState, refused: readonly string[]) =>
  refused.length > 0
    ? [say`The project was opened as it was on ${format(savedAt, 'd MMMM yyyy, HH:mm')}.`]
    : [];

const damageTold = (names: readonly string[]) =>
  names.length === 0
    ? []
    : [
        say`The audio of ${names.join(', ')} is not what was copied into this folder. It was taken over as it is: listen to it before you go on.`,
      ];

/** A file that is compared with its checksum while it is read. */
function asHeld(
  file: File | undefined,
  sha256: string | undefined,
  damaged: () => void,
): HeldFile | undefined {
  if (!file) return undefined;
  return {
    bytes: file.size,
    async pipeTo(target, signal) {
      const hash = await createSHA256();
      const hashed = new TransformStream<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>({
        transform(bytes, controller) {
          hash.update(bytes);
          controller.enqueue(bytes);
        },
      });
      await file.stream().pipeThrough(hashed).pipeTo(target, { signal });
      if (sha256 !== undefined && hash.digest('hex') !== sha256) damaged();
    },
  };
}
