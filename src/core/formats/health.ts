/** What is wrong with a sound file itself; final when all its audio has come. */
export interface FileHealth {
  /** It ends before the length it states, or in the middle of what it is made of. */
  truncated: boolean;
  /** Parts of it are damaged, stand where they should not, or do not match a checksum. */
  damaged: boolean;
}

export interface SoundHealth extends FileHealth {
  /** Samples that are infinite or no number at all; they are taken as silence. */
  notNumbers: number;
}
