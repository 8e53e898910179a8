import { formatBytes } from '@/core/base/units';
import { safeName } from '@/core/formats/fileNames';
import { sourcesOfProject } from '@/storage/sources';
import { exportClient, handOver, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { saved } from '../page/saving';
import { ask } from '../page/questions';
import { restCaret } from '../sheet/part';

/** Writes the whole project to one open file, once everything that was done to it is stored. */
export async function saveProjectFile(projectId: string, name: string): Promise<void> {
  restCaret();
  if (!(await saved()))
    return notify(
      'error',
      'What was changed last is not stored yet, so it would be missing in the project file. Make room on the disk and wait for “Saved”, then save the file again.',
    );
  const films = await withFilms(projectId);
  if (films === null) return;
  const fileName = `${safeName(name)}.parola`;
  const written = await runShown(`Writing ${fileName}`, (options) =>
    exportClient.run('saveProject', { projectId, fileName, films }, options),
  );
  if (!written) return;
  await handOver(written);
  const holds = films ? 'the whole project' : 'the whole project without its pictures';
  notify('success', `${written.fileName} is written. It holds ${holds}: keep it as your backup.`);
}

/** Whether moving pictures go into a project file; null when it is not to be written. */
async function withFilms(projectId: string): Promise<boolean | null> {
  const films = (await sourcesOfProject(projectId)).flatMap(({ film }) => film ?? []);
  if (films.length === 0) return true;
  const bytes = films.reduce((sum, film) => sum + film.bytes, 0);
  const answer = await ask({
    title: films.length === 1 ? 'The picture in the project file' : 'The pictures in the project file',
    text: `${films.map(({ fileName }) => `“${fileName}”`).join(', ')}: ${formatBytes(bytes)}. Without it the file is smaller, and whoever opens it has to choose the film again to see it; its sound is in it in any case.`,
    choices: [
      { id: 'with', label: 'Put it in' },
      { id: 'without', label: 'Leave it out' },
    ],
  });
  return answer === 'with' ? true : answer === 'without' ? false : null;
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
