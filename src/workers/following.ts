import { createXXHash128, type IHasher } from 'hash-wasm';
import type { SoundFileSettings } from '@/core/formats/soundFile';
import { headBytes, type FollowedSound } from './followJobs';
import { GrowingBytes } from './growingBytes';
import { measureWritten, type ReadSound } from '@/core/delivery/measureWritten';

/** The fingerprint of a file without its first `headBytes`, of bytes that come in their order. */
export class Fingerprint {
  private at = 0;

  private constructor(private readonly hash: IHasher) {}

  static async create(): Promise<Fingerprint> {
    const hash = await createXXHash128();
    hash.init();
    return new Fingerprint(hash);
  }

  update(bytes: Uint8Array): void {
    const skip = Math.min(bytes.length, Math.max(0, headBytes - this.at));
    this.at += bytes.length;
    if (skip < bytes.length) this.hash.update(bytes.subarray(skip));
  }

  /** Hexadecimal. */
  digest(): string {
    return this.hash.digest('hex');
  }
}

/** Decodes and measures a file while it is written, from the bytes that go to the disk. */
export class Following {
  private readonly bytes = new GrowingBytes();
  private readonly sound: Promise<ReadSound>;

  private constructor(
    settings: SoundFileSettings,
    private readonly fingerprint: Fingerprint,
  ) {
    this.sound = measureWritten(this.bytes, settings, () => undefined).finally(() => this.bytes.leave());
    // Told by `end`.
    this.sound.catch(() => undefined);
  }

  static async create(settings: SoundFileSettings): Promise<Following> {
    return new Following(settings, await Fingerprint.create());
  }

  async take(bytes: Uint8Array): Promise<void> {
    this.fingerprint.update(bytes);
    await this.bytes.add(bytes);
  }

  /** Throws what decoding throws. */
  async end(): Promise<FollowedSound> {
    this.bytes.end();
    return { ...(await this.sound), fingerprint: this.fingerprint.digest() };
  }
}
