import type { Damage } from '@/storage/integrity';
import type { CopyFinding } from './checkCopy';

export interface CopyRoundResult {
  /** Recordings and films that stand in the folder. */
  files: number;
  bytes: number;
  /** When it was found that all of the project stands there, in milliseconds since 1970. */
  at: number;
}

/** Jobs of the worker that keeps the copy; one after another, since they share what has been begun. */
export type CopyJobs = {
  /**
   * Copies what the folder lacks of a project, then its state. `freshly`: what is there is looked at anew;
   * `damaged` are paths of files to be copied again; `live` is the recording that is being made. Progress is
   * the share of bytes.
   */
  round: {
    input: {
      folder: FileSystemDirectoryHandle;
      projectId: string;
      freshly: boolean;
      damaged: readonly string[];
      live: string | null;
    };
    output: CopyRoundResult;
  };
  /** Copies what is on disk so far of a recording that is being made; resolves to frames that were copied. */
  ahead: {
    input: {
      folder: FileSystemDirectoryHandle;
      projectId: string;
      source: { id: string; rateHz: number; channels: number };
    };
    output: number;
  };
  /** Reads the whole copy of a project and compares it with its checksums. */
  check: { input: { folder: FileSystemDirectoryHandle; projectId: string }; output: CopyFinding };
  /** The recordings of a project that are not whole in this browser. */
  damage: { input: { projectId: string }; output: Damage[] };
  /** Brings recordings back from the copy; resolves to how many of them are whole again. */
  repair: {
    input: { folder: FileSystemDirectoryHandle; projectId: string; sources: readonly string[] };
    output: number;
  };
};
