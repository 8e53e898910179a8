import type { BroadcastInfo } from '@/core/formats/bext';
import type { FileMark } from '@/core/formats/fileMarks';
import type { Cover, SoundTags } from '@/core/formats/id3';
import type { Measurement } from '@/core/loudness/measure';
import type { FileFormat } from '@/core/specs/fileFormat';
import type { Sounding } from '@/core/timeline/sounding';
import type { SourceRecord } from '@/storage/schema';

/** One file to write: heard range [from, to) of a part. */
export interface ExportItem {
  fileName: string;
  format: FileFormat;
  sounding: Sounding;
  range: { from: number; to: number };
  /** Where the file belongs in time, for a Broadcast WAV; missing for a plain file. */
  broadcast?: BroadcastInfo;
  /** In frames of the file's audio at the project's rate. */
  marks?: FileMark[];
  tags?: SoundTags;
  cover?: Cover;
}

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

export type ExportJobs = {
  /** Writes one file and reads it back. */
  write: { input: WriteInput; output: CheckedFile };
  /** Puts written files and texts into one archive; the files go into it. */
  archive: { input: ArchiveInput; output: WrittenFile };
  /** Removes written files that are not wanted any more. */
  discard: { input: { paths: string[]; folder: FileSystemDirectoryHandle | null }; output: null };
  saveProject: { input: { projectId: string; fileName: string }; output: WrittenFile };
  /** `left` says what could not be taken over. */
  openProject: { input: { file: File }; output: { projectId: string; name: string; left: string[] } };
  /** Removes what was left by openings that were cut off, and files that have long been handed over. */
  sweep: { input: null; output: null };
  openDemo: { input: null; output: { projectId: string; name: string } };
};
