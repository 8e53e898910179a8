import type { PartFile } from '@/core/delivery/partFiles';
import type { Measurement } from '@/core/loudness/measure';
import type { SourceRecord } from '@/storage/schema';
import type { ArrivedRecording } from './importJobs';
import type { FoundCopy } from './openCopyFolder';

/** One file to write, whatever it is of. */
export type ExportItem = Omit<PartFile, 'partId' | 'partName'>;

export interface WriteInput {
  item: ExportItem;
  sources: Pick<SourceRecord, 'id' | 'frames'>[];
  /** Where it is written; the private file system when null. */
  folder: FileSystemDirectoryHandle | null;
}

/** A finished file in the browser's private file system; it is there until the next export clears it away. */
export interface WrittenFile {
  path: string;
  fileName: string;
  bytes: number;
}

/**
 * What the written file holds, found by reading it back with another decoder than the one that knows how it
 * was written.
 */
export interface CheckedFile extends WrittenFile {
  sha256: string;
  measurement: Measurement;
  /** Null when it reads back as it was written: its length, and every sample where the coding is lossless. */
  mistake: string | null;
}

export interface ArchiveInput {
  files: { path: string; fileName: string }[];
  texts: { fileName: string; text: string }[];
  archiveName: string;
}

/** An earlier project file, and the recordings that stand in it. */
export interface HeldElsewhere {
  file: string;
  sources: readonly string[];
}

export type ExportJobs = {
  /** Writes one file and reads it back. */
  write: { input: WriteInput; output: CheckedFile };
  /**
   * Writes the film of a recording with what is heard of a part as its sound; `fileName` is without an
   * ending, which is that of the film's own form.
   */
  film: {
    input: {
      sourceId: string;
      item: Pick<ExportItem, 'sounding' | 'range' | 'fileName'>;
      sources: WriteInput['sources'];
    };
    output: WrittenFile;
  };
  /** Puts written files and texts into one archive; the files go into it. */
  archive: { input: ArchiveInput; output: WrittenFile };
  /** Removes written files that are not wanted any more. */
  discard: { input: { paths: string[]; folder: FileSystemDirectoryHandle | null }; output: null };
  /**
   * `films` says whether moving pictures go into it as well; recordings that stand in files of `elsewhere` do
   * not. Resolves with the recordings that are in it.
   */
  saveProject: {
    input: { projectId: string; fileName: string; films: boolean; elsewhere: readonly HeldElsewhere[] };
    output: WrittenFile & { holds: string[] };
  };
  /**
   * Opens a project file, with the earlier ones that hold what is not in it. `left` says what could not be
   * taken over.
   */
  openProject: {
    input: { files: readonly File[] };
    output: { projectId: string; name: string; left: string[] };
  };
  /** The copies of projects in a folder, the latest first. */
  findCopies: { input: { folder: FileSystemDirectoryHandle }; output: FoundCopy[] };
  /** Opens one of them; `left` says what was missing or damaged. */
  openCopy: {
    input: { folder: FileSystemDirectoryHandle; folderName: string };
    output: { projectId: string; name: string; left: string[] };
  };
  /** What a talent has recorded, as one file for the studio. */
  saveRecordings: {
    input: { person: string; name: string; recordings: readonly ArrivedRecording[]; fileName: string };
    output: WrittenFile;
  };
  /** Reads such a file: those of its recordings that are of these takes. */
  openRecordings: {
    input: { file: File; takes: readonly string[]; projectId: string };
    output: { person: string; name: string; read: ArrivedRecording[] };
  };
  /** Removes what was left by openings that were cut off, and files that have long been handed over. */
  sweep: { input: null; output: null };
  openDemo: { input: null; output: { projectId: string; name: string } };
};
