/**
 * SHA-256 of bytes that come one after another: a third of the time of reading a file back, on another core.
 */
export type HashJobs = {
  begin: { input: null; output: null };
  update: { input: { bytes: Uint8Array }; output: null };
  /** The checksum, hexadecimal. */
  end: { input: null; output: string };
};
