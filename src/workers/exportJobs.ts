import type { FileFormat } from '@/core/specs/fileFormat';
import type { BroadcastInfo } from '@/core/formats/bext';
import type { JoinLengths } from '@/core/timeline/joins';
import type { StoredSounding } from '@/core/timeline/sounding';
import type { SourceRecord } from '@/storage/schema';

/** One file to write: heard range [from, to) of a part. */
export interface ExportItem {
  fileName: string;
  sounding: StoredSounding;
  range: { from: number; to: number };
  /** Where the file belongs in time, for a Broadcast WAV; missing for a plain file. */
  broadcast?: BroadcastInfo;
}

export interface ExportInput {
  items: ExportItem[];
  sources: Pick<SourceRecord, 'id' | 'frames'>[];
  rateHz: number;
  joins: JoinLengths;
  format: FileFormat;
  /** Several files go into one archive of this name. */
  archiveName: string;
}

/** A finished file in the browser's private file system; it is there until the next export clears it away. */
export interface WrittenFile {
  path: string;
  fileName: string;
  bytes: number;
}

export type ExportJobs = {
  export: { input: ExportInput; output: WrittenFile };
  saveProject: { input: { projectId: string; fileName: string }; output: WrittenFile };
  openProject: { input: { file: File }; output: { projectId: string; name: string } };
  openDemo: { input: null; output: { projectId: string; name: string } };
};
