import type { SoundFileSettings } from '@/core/formats/soundFile';
import type { ReadSound } from '@/core/delivery/measureWritten';

/**
 * Decodes and measures a file while it is written, on another core: bytes come in their order, as they go to
 * the disk.
 */
export type FollowJobs = {
  begin: { input: { settings: SoundFileSettings }; output: null };
  /** Resolves once little enough waits to be decoded. */
  take: { input: { bytes: Uint8Array }; output: null };
  end: { input: null; output: FollowedSound };
};

export interface FollowedSound extends ReadSound {
  /** XXH128 of the bytes behind the first `headBytes`, hexadecimal. */
  fingerprint: string;
}

/**
 * What is filled in at the end stands within so many bytes of the beginning: headers, and a cover picture
 * before them.
 */
export const headBytes = 4_194_304;
