import { ZipWriter } from '@zip.js/zip.js';
import { cancelled } from '@/core/base/errors';
import { writeSoundFile } from '@/core/formats/soundFile';
import { PartRenderer } from '@/core/timeline/output';
import { loadSounding } from '@/core/timeline/sounding';
import { BlockReader } from '@/storage/blockReader';
import type { ExportInput, ExportItem, WrittenFile } from './exportJobs';
import { createMp3Encoder } from '@/core/formats/mp3Encoder';
import type { JobContext } from './protocol';
import { ScratchFile, clearScratch, removeScratch } from './scratchFile';

const chunkSeconds = 2;
const dayMs = 86_400_000;

/** Renders and writes the files; one as it is, several as one archive. Cancelling leaves nothing behind. */
export async function exportFiles(input: ExportInput, context: JobContext): Promise<WrittenFile> {
  await clearScratch(dayMs);
  const total = input.items.reduce((sum, { range }) => sum + range.to - range.from, 0);
  let before = 0;
  const written: { item: ExportItem; file: File; path: string }[] = [];
  try {
    for (const item of input.items) {
      const frames = item.range.to - item.range.from;
      const progress = (done: number) =>
        context.progress((before + done) / Math.max(1, total), item.fileName);
      written.push({ item, ...(await writeOne(item, input, progress, context.signal)) });
      before += frames;
    }
    if (written.length === 1) {
      const [{ file, path, item }] = written;
      return { path, fileName: item.fileName, bytes: file.size };
    }
    const archive = await zip(written, input.archiveName, context);
    await Promise.all(written.map(({ path }) => removeScratch(path)));
    return archive;
  } catch (error) {
    await Promise.all(written.map(({ path }) => removeScratch(path)));
    throw error;
  }
}

async function writeOne(
  { sounding, range, broadcast }: ExportItem,
  { sources, rateHz, joins, format }: ExportInput,
  progress: (frames: number) => void,
  signal: AbortSignal,
): Promise<{ file: File; path: string }> {
  const part = new PartRenderer(loadSounding(sounding), rateHz, new BlockReader(sources), joins);
  async function* watched() {
    let done = 0;
    for await (const audio of part.stream(range, chunkSeconds * rateHz, 1)) {
      if (signal.aborted) throw cancelled();
      yield audio[0];
      progress((done += audio[0].length));
    }
  }
  const target = await ScratchFile.create();
  try {
    await writeSoundFile(
      watched(),
      { format, rateHz, frames: range.to - range.from, broadcast },
      target,
      createMp3Encoder,
    );
    return { file: await target.close(), path: target.path };
  } catch (error) {
    await target.discard();
    throw error;
  }
}

async function zip(
  files: { item: ExportItem; file: File }[],
  archiveName: string,
  context: JobContext,
): Promise<WrittenFile> {
  const target = await ScratchFile.create();
  try {
    const stream = new WritableStream<Uint8Array>({ write: (bytes) => target.write(bytes) });
    const writer = new ZipWriter(stream, { level: 0, useWebWorkers: false, signal: context.signal });
    for (const { item, file } of files) await writer.add(item.fileName, file.stream());
    await writer.close();
    const { size } = await target.close();
    return { path: target.path, fileName: archiveName, bytes: size };
  } catch (error) {
    await target.discard();
    throw error;
  }
}
