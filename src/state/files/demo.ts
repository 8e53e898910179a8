import { say } from '@/texts/say';
import { exportClient, runShown } from '../page/jobs';

/** Reads the shipped demo into a project and returns its id; null when that failed, which has been told. */
export async function openDemo(): Promise<string | null> {
  const opened = await runShown(say`Setting the demo up`, (options) =>
    exportClient.run('openDemo', null, options),
  );
  return opened?.projectId ?? null;
}
