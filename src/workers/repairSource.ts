import { blockFrames } from '@/core/base/audio';
import { toCopyError } from '@/core/keep/copyErrors';
import { audioPath } from '@/core/keep/copyFolder';
import { decodeFrames } from '@/core/formats/pcm';
import { readWavInfo } from '@/core/formats/wavReader';
import { writeBlock } from '@/storage/blocks';
import { copyRecord } from '@/storage/copies';
import { gapsOf } from '@/storage/integrity';
import { sourceRecord } from '@/storage/sources';
import { BlobBytes } from './blobBytes';
import { hashesOf } from './copiedAudio';
import type { CopyJobs } from './copyJobs';
import { fileAt, subfolderIfThere } from './copyFiles';
import type { JobContext } from './protocol';

/**
 * Brings back what is missing of recordings from the copy in the folder: whole blocks, as they were recorded.
 * A file that is not what was copied is not used. Resolves to how many recordings are whole again.
 */
export async function repairSources(
  { folder, projectId, sources }: CopyJobs['repair']['input'],
  { signal, progress }: JobContext,
): Promise<number> {
  try {
    const record = await copyRecord(projectId);
    const home = record && (await subfolderIfThere(folder, record.name));
    if (!record || !home) return 0;
    const files = new Map(record.files);
    let whole = 0;
    for (const [index, id] of sources.entries()) {
      progress(index / sources.length);
      const told = files.get(audioPath(id));
      const file = told && (await fileAt(home, audioPath(id)));
      if (!file || (await hashesOf(file, 0, signal)).whole !== told.sha256) continue;
      if (await repairFrom(file, id)) whole++;
    }
    return whole;
  } catch (error) {
    throw toCopyError(error);
  }
}

async function repairFrom(file: File, id: string): Promise<boolean> {
  const source = await sourceRecord(id);
  if (!source) return false;
  const bytes = new BlobBytes(file);
  const info = await readWavInfo(bytes);
  if (info.frames !== source.frames || info.channels !== source.channels) return false;
  for (const { from, to } of await gapsOf(source)) {
    // What is there of a block that is too short cannot be added to.
    for (let at = Math.ceil(from / blockFrames) * blockFrames; at < to; at += blockFrames) {
      const frames = Math.min(blockFrames, source.frames - at);
      const read = await bytes.read(info.dataOffset + at * info.frameBytes, frames * info.frameBytes);
      await writeBlock(id, at / blockFrames, decodeFrames(read, info));
    }
  }
  return (await gapsOf(source)).length === 0;
}
