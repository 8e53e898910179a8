import { say } from '@/texts/say';
import { format } from '@/texts/dates';
import { chooseFolder } from '../files/folders';
import { exportClient, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { ask } from '../page/questions';

/**
 * Opens the copy of a project from a folder as a project of its own and returns its id; null when that
 * failed or was called off, which has been told.
 */
export async function openFolder(): Promise<string | null> {
  const folder = await chooseFolder('read');
  if (!folder) return null;
  const found = await runShown(say`Looking into ${folder.name}`, (options) =>
    exportClient.run('findCopies', { folder }, options),
  );
  if (!found) return null;
  let [copy] = found;
  if (found.length > 1) {
    const answer = await ask({
      title: say`${found.length} projects in “${folder.name}”`,
      text: say`Each was copied there by itself. Which one is to be opened?`,
      choices: found.map(({ folderName, name, savedAt }) => ({
        id: folderName,
        label: `${name} · ${format(savedAt, 'd MMM yyyy, HH:mm')}`,
      })),
    });
    const chosen = found.find(({ folderName }) => folderName === answer);
    if (!chosen) return null;
    copy = chosen;
  }
  const opened = await runShown(say`Opening ${copy.name}`, (options) =>
    exportClient.run('openCopy', { folder, folderName: copy.folderName }, options),
  );
  for (const sentence of opened?.left ?? []) notify('warning', sentence, 'kept');
  return opened?.projectId ?? null;
}
