import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { MemorySource } from '@/core/formats/bytes';
import { decodeFrames } from '@/core/formats/pcm';
import { readWavInfo, type WavInfo } from '@/core/formats/wavReader';
import type { SourceRecord } from '@/storage/schema';
import { BlockWriter } from '@/storage/blocks';

/** What a manifest tells of the audio of a source. */
export type ToldAudio = Pick<SourceRecord, 'name' | 'frames' | 'channels'>;

export const otherAudio = ({ name }: ToldAudio) =>
  new ParolaError(
    'damaged-file',
    say`The audio of “${name}” is not what the project file says it is. Nothing was opened; try another copy.`,
  );

/** Long enough for the header of any WAV that a project file contains. */
const headBytes = 65_536;

const silentFrames = 131_072;

/** Takes a WAV file as a stream of bytes and stores its audio in blocks. */
export class WavSink {
  private rest: Uint8Array<ArrayBuffer> = new Uint8Array(0);
  private info: WavInfo | null = null;
  private received = 0;
  private readonly writer: BlockWriter;

  constructor(
    private readonly fileBytes: number,
    private readonly record: SourceRecord,
    private readonly advance: (frames: number) => void,
  ) {
    this.writer = new BlockWriter(record.id, record.channels);
  }

  async write(bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    this.received += bytes.length;
    // What is packed may turn out longer than it is said to be.
    if (this.received > this.fileBytes) throw otherAudio(this.record);
    const all = new Uint8Array(this.rest.length + bytes.length);
    all.set(this.rest);
    all.set(bytes, this.rest.length);
    this.rest = all;
    if (!this.info && all.length < Math.min(headBytes, this.fileBytes)) return;
    if (!this.info) await this.readHeader();
    await this.store();
  }

  async close(): Promise<number> {
    if (!this.info) await this.readHeader();
    await this.store();
    return this.writer.close();
  }

  /**
   * Stores what has come, and silence for what the manifest tells beyond it; resolves to the frames that had
   * come.
   */
  async closeWithSilence(): Promise<number> {
    await this.store();
    const come = this.writer.frames;
    const { frames, channels } = this.record;
    for (let at = come; at < frames; at += silentFrames) {
      const length = Math.min(silentFrames, frames - at);
      await this.writer.write(Array.from({ length: channels }, () => new Float32Array(length)));
    }
    await this.writer.close();
    return come;
  }

  settled(): Promise<void> {
    return this.writer.settled();
  }

  private async readHeader() {
    const head = new MemorySource(this.rest);
    const info = await readWavInfo({
      size: this.fileBytes,
      read: (offset, length) => head.read(offset, length),
    });
    const { channels, rateHz } = this.record;
    if (info.channels !== channels || info.rateHz !== rateHz || info.frames > this.record.frames)
      throw otherAudio(this.record);
    this.info = info;
    this.rest = this.rest.slice(info.dataOffset);
  }

  private async store() {
    if (!this.info) return;
    const audio = decodeFrames(this.rest, this.info);
    const left = Math.min(audio[0].length, this.info.frames - this.writer.frames);
    this.rest = this.rest.slice(audio[0].length * this.info.frameBytes);
    if (left <= 0) return;
    await this.writer.write(audio.map((samples) => samples.subarray(0, left)));
    this.advance(left);
  }
}
