import { say } from '@/texts/say';
import { formatBytes } from '@/core/base/units';
import { safeName } from '@/core/formats/fileNames';
import { backupOf, storeBackup } from '@/storage/backups';
import { sourcesOfProject } from '@/storage/sources';
import { exportClient, handOver, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { saved } from '../page/saving';
import { ask } from '../page/questions';
import { restCaret } from '../sheet/part';

/**
 * Writes the whole project to one open file, once everything that was done to it is stored; `onlyNew` leaves
 * out the recordings that stand in files saved before. Resolves to whether it was written.
 */
export async function saveProjectFile(projectId: string, name: string, onlyNew = false): Promise<boolean> {
  restCaret();
  if (!(await saved())) {
    notify(
      'error',
      say`What was changed last is not stored yet, so it would be missing in the project file. Make room on the disk and wait for “Saved”, then save the file again.`,
      'projects',
    );
    return false;
  }
  const films = await withFilms(projectId);
  if (films === null) return false;
  const before = onlyNew ? ((await backupOf(projectId))?.files ?? []) : [];
  const fileName = `${safeName(name)}${before.length > 0 ? `-${before.length + 1}` : ''}.parola`;
  const written = await runShown(say`Writing ${fileName}`, (options) =>
    exportClient.run('saveProject', { projectId, fileName, films, elsewhere: before }, options),
  );
  if (!written) return false;
  await handOver(written);
  const files = [...before, { file: fileName, sources: written.holds }];
  await storeBackup(projectId, { at: Date.now(), files });
  notify('success', say`${fileName} is written. ${heldTold(films, before)}`);
  return true;
}

function heldTold(films: boolean, before: readonly { file: string }[]): string {
  const without = films ? '' : say` without its pictures`;
  if (before.length === 0) return say`It holds the whole project${without}: keep it as your backup.`;
  return say`It holds the project${without} with what was recorded since; the rest is in ${before.map(({ file }) => `“${file}”`).join(', ')}. Keep them together: they are opened together.`;
}

/** Whether moving pictures go into a project file; null when it is not to be written. */
async function withFilms(projectId: string): Promise<boolean | null> {
  const films = (await sourcesOfProject(projectId)).flatMap(({ film }) => film ?? []);
  if (films.length === 0) return true;
  const bytes = films.reduce((sum, film) => sum + film.bytes, 0);
  const answer = await ask({
    title: films.length === 1 ? say`The picture in the project file` : say`The pictures in the project file`,
    text: say`${films.map(({ fileName }) => `“${fileName}”`).join(', ')}: ${formatBytes(bytes)}. Without it the file is smaller, and whoever opens it has to choose the film again to see it; its sound is in it in any case.`,
    choices: [
      { id: 'with', label: say`Put it in` },
      { id: 'without', label: say`Leave it out` },
    ],
  });
  return answer === 'with' ? true : answer === 'without' ? false : null;
}

/**
 * Opens a project file, with the earlier ones it needs, as a project of its own and returns its id; null when
 * that failed, which has been told.
 */
export async function openProjectFile(files: readonly File[]): Promise<string | null> {
  const [{ name }] = files;
  const opened = await runShown(say`Opening ${name}`, (options) =>
    exportClient.run('openProject', { files }, options),
  );
  for (const sentence of opened?.left ?? []) notify('warning', sentence, 'projects');
  return opened?.projectId ?? null;
}
