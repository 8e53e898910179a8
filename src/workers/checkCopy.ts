import { cancelled } from '@/core/base/errors';
import { toCopyError } from '@/core/keep/copyErrors';
import { sumsName } from '@/core/keep/copyFolder';
import { parseSums } from '@/core/keep/sums';
import { copyRecord } from '@/storage/copies';
import { hashesOf } from './copiedAudio';
import type { CopyJobs } from './copyJobs';
import { fileAt, fileIfThere, subfolderIfThere } from './copyFiles';
import { noCopyYet } from './copyRound';
import type { JobContext } from './protocol';

/** What a copy turned out to be; paths within the folder of the project. */
export interface CopyFinding {
  files: number;
  bytes: number;
  missing: string[];
  damaged: string[];
}

/** Reads every file of the copy and compares it with its checksum. Progress is the share of bytes. */
export async function checkCopy(
  { folder, projectId }: CopyJobs['check']['input'],
  { signal, progress }: JobContext,
): Promise<CopyFinding> {
  try {
    const record = await copyRecord(projectId);
    const home = record && (await subfolderIfThere(folder, record.name));
    if (!record || !home) throw noCopyYet();
    const sums = parseSums((await (await fileIfThere(home, sumsName))?.text()) ?? '');
    const total = record.files.reduce((sum, [, { bytes }]) => sum + bytes, 0);
    const finding: CopyFinding = { files: record.files.length, bytes: total, missing: [], damaged: [] };
    let done = 0;
    for (const [path, { bytes, sha256 }] of record.files) {
      if (signal.aborted) throw cancelled();
      const file = await fileAt(home, path);
      if (!file || file.size === 0) finding.missing.push(path);
      else if (file.size !== bytes || (await hashesOf(file, 0, signal)).whole !== sha256)
        finding.damaged.push(path);
      // What the folder says of itself is what somebody else goes by.
      else if (sums.get(path) !== sha256) finding.damaged.push(sumsName);
      progress((done += bytes) / total, path);
    }
    finding.damaged = [...new Set(finding.damaged)];
    return finding;
  } catch (error) {
    throw toCopyError(error);
  }
}
