import { safeName } from '@/core/formats/fileNames';
import { exportClient, handOver, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { saved } from '../page/saving';
import { restCaret } from '../sheet/part';

/** Writes the whole project to one open file, once everything that was done to it is stored. */
export async function saveProjectFile(projectId: string, name: string): Promise<void> {
  restCaret();
  if (!(await saved()))
    return notify(
      'error',
      'What was changed last is not stored yet, so it would be missing in the project file. Make room on the disk and wait for “Saved”, then save the file again.',
    );
  const fileName = `${safeName(name)}.parola`;
  const written = await runShown(`Writing ${fileName}`, (options) =>
    exportClient.run('saveProject', { projectId, fileName }, options),
  );
  if (!written) return;
  await handOver(written);
  notify('success', `${written.fileName} is written. It holds the whole project: keep it as your backup.`);
}

/**
 * Opens a project file as a project of its own and returns its id; null when that failed, which has been
 * told.
 */
export async function openProjectFile(file: File): Promise<string | null> {
  const opened = await runShown(`Opening ${file.name}`, (options) =>
    exportClient.run('openProject', { file }, options),
  );
  for (const sentence of opened?.left ?? []) notify('warning', sentence);
  return opened?.projectId ?? null;
}
