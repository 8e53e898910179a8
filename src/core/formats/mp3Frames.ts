import { asciiAt, joinBytes } from './bytes';
import type { FileHealth } from './health';
import { crc16, parseMp3Header, readInfoFields, type InfoFields } from './mp3Info';

/** Tags that may follow the audio (ID3v1, APEv2, Lyrics3, another ID3v2): no damage. */
const tags = ['TAG', 'APE', 'LYR', 'ID3'];
/** So many bytes after the last frame that are neither a frame nor a tag are let pass. */
const mostBytesAfter = 4096;
/** An information frame is whole with as many bytes as the largest frame of MPEG-1 Layer III has. */
const largestFrame = 1441;

/**
 * Follows the frames of an MP3 as it streams in, from its first frame on, beside the decoder, which makes
 * sound of what is left of a damaged file without a word. What is there is compared with what the
 * information frame says: frames, bytes and, where the file is otherwise as it was written, the checksum of
 * the music.
 */
export class Mp3FrameScan {
  private held: Uint8Array = new Uint8Array(0);
  private skip = 0;
  private frames = 0;
  private stated: InfoFields | null = null;
  private first = true;
  private bytes = 0;
  private lost = 0;
  private lostSinceFrame = 0;
  private ended = false;
  private checksum = 0;

  process(chunk: Uint8Array): void {
    if (this.ended) return;
    let bytes = this.held.length > 0 ? joinBytes([this.held, chunk]) : chunk;
    if (this.first) {
      if (bytes.length < largestFrame) {
        this.held = bytes.slice();
        return;
      }
      bytes = this.begin(bytes);
    }
    this.follow(bytes);
  }

  finish(): FileHealth {
    if (this.first) this.follow(this.begin(this.held));
    const { stated, frames } = this;
    const fewer = stated !== null && stated.frames !== null && frames < stated.frames;
    const shorter = stated !== null && (stated.bytes === null || this.bytes < stated.bytes);
    const truncated = (fewer && shorter) || this.skip > 0;
    const untouched = stated?.bytes === this.bytes && this.lost === 0;
    return {
      truncated,
      damaged:
        this.lost > this.lostSinceFrame ||
        this.lostSinceFrame > mostBytesAfter ||
        (untouched && stated?.checksum !== null && stated?.checksum !== this.checksum),
    };
  }

  /** The information frame, if there is one, is no music; what follows it is returned. */
  private begin(bytes: Uint8Array): Uint8Array {
    this.first = false;
    this.held = new Uint8Array(0);
    const header = parseMp3Header(bytes, 0);
    this.stated = readInfoFields(bytes);
    if (!header || !this.stated) return bytes;
    this.bytes = Math.min(header.bytes, bytes.length);
    return bytes.subarray(this.bytes);
  }

  private follow(bytes: Uint8Array): void {
    let at = 0;
    while (at < bytes.length) {
      if (this.skip > 0) {
        const step = Math.min(this.skip, bytes.length - at);
        this.take(bytes.subarray(at, at + step));
        this.skip -= step;
        at += step;
        continue;
      }
      if (bytes.length - at < 4) break;
      const header = parseMp3Header(bytes, at);
      if (header) {
        this.frames++;
        this.skip = header.bytes;
        this.lostSinceFrame = 0;
      } else if (this.lostSinceFrame === 0 && tags.includes(asciiAt(bytes, at, 3))) {
        this.ended = true;
        return;
      } else {
        this.lost++;
        this.lostSinceFrame++;
        at++;
      }
    }
    this.held = bytes.slice(at);
  }

  private take(music: Uint8Array) {
    this.bytes += music.length;
    if (this.stated?.checksum != null) this.checksum = crc16(music, this.checksum);
  }
}
