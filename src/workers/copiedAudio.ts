import { say } from '@/texts/say';
import { createSHA256, type IHasher } from 'hash-wasm';
import { blockFrames, type Planar } from '@/core/base/audio';
import { cancelled } from '@/core/base/errors';
import { notAsWritten } from '@/core/keep/copyErrors';
import { audioFormat, audioName, type CopiedSource } from '@/core/keep/copyFolder';
import type { CopiedFile } from '@/core/keep/sums';
import { WavEncoder, wavHeader } from '@/core/formats/wavWriter';
import { BlockReader } from '@/storage/blockReader';
import { readBlock } from '@/storage/blocks';

const chunkFrames = 16 * blockFrames;

/** Hashes a file: from its beginning, and the part of it after a header. */
export async function hashesOf(file: Blob, headerBytes: number, signal: AbortSignal) {
  const [whole, audio] = await Promise.all([createSHA256(), createSHA256()]);
  let at = 0;
  for await (const bytes of chunksOf(file)) {
    if (signal.aborted) throw cancelled();
    whole.update(bytes);
    if (at + bytes.length > headerBytes) audio.update(bytes.subarray(Math.max(0, headerBytes - at)));
    at += bytes.length;
  }
  return { whole: whole.digest('hex'), audio: audio.digest('hex') };
}

async function* chunksOf(file: Blob): AsyncGenerator<Uint8Array> {
  const reader = file.stream().getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    yield value;
  }
}

/**
 * The copy of one recording, written as far as it is on disk; also while it is being made. It stands apart
 * until `finish`.
 */
export class CopiedAudio {
  private frames = 0;
  private readonly encoder: WavEncoder;

  private constructor(
    private readonly source: Omit<CopiedSource, 'frames'>,
    private readonly handle: FileSystemFileHandle,
    private readonly writable: FileSystemWritableFileStream,
    private readonly hash: IHasher,
    private readonly headerBytes: number,
  ) {
    this.encoder = new WavEncoder(audioFormat({ ...source, frames: 0 }));
  }

  /** `frames`: how long it will be, as far as is known. */
  static async begin(
    folder: FileSystemDirectoryHandle,
    source: Omit<CopiedSource, 'frames'>,
    frames = 0,
  ): Promise<CopiedAudio> {
    const handle = await folder.getFileHandle(audioName(source.id), { create: true });
    const header = wavHeader(audioFormat({ ...source, frames }), frames);
    const writable = await handle.createWritable();
    await writable.write(header);
    return new CopiedAudio(source, handle, writable, await createSHA256(), header.length);
  }

  get copied() {
    return this.frames;
  }

  /** Takes over the blocks that have been recorded since. */
  async follow(): Promise<void> {
    while (this.frames % blockFrames === 0) {
      const block = await readBlock(this.source.id, this.frames / blockFrames);
      if (!block) return;
      await this.append(block);
    }
  }

  /** Takes over the rest of a recording of `frames` frames, ends the file and reads it back. */
  async finish(frames: number, signal: AbortSignal, advance: (bytes: number) => void): Promise<CopiedFile> {
    const { id, channels } = this.source;
    const reader = new BlockReader([{ id, frames }]);
    while (this.frames < frames) {
      if (signal.aborted) throw cancelled();
      const count = Math.min(chunkFrames, frames - this.frames);
      const audio = Array.from({ length: channels }, () => new Float32Array(count));
      for (let channel = 0; channel < channels; channel++)
        await reader.read(id, channel, this.frames, count, audio[channel], 0);
      await this.append(audio);
      advance(count * channels * 4);
    }
    await this.writable.write({
      type: 'write',
      position: 0,
      data: wavHeader(audioFormat({ ...this.source, frames }), frames),
    });
    await this.writable.close();
    const file = await this.handle.getFile();
    const found = await hashesOf(file, this.headerBytes, signal);
    if (found.audio !== this.hash.digest('hex')) throw notAsWritten(say`a recording`);
    return { bytes: file.size, sha256: found.whole };
  }

  /** More of it was copied than it turned out to be long, or its header has another length then. */
  unfitFor(frames: number): boolean {
    const header = wavHeader(audioFormat({ ...this.source, frames }), frames);
    return this.frames > frames || header.length !== this.headerBytes;
  }

  /** Nothing of it stays but what stood there before; an empty file where there was none. */
  async giveUp(): Promise<void> {
    await this.writable.abort().catch(() => undefined);
  }

  private async append(audio: Planar) {
    const bytes = this.encoder.process(audio);
    this.hash.update(bytes);
    await this.writable.write(bytes);
    this.frames += audio[0].length;
  }
}
