import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { exportClient, runShown } from '../page/jobs';
import { notify, notifyError } from '../page/notices';
import { sourceList, useProject } from '../project/openProject';
import { openSession, callerOfVoice } from './session';

/** Takes in which somebody's voice is still what came over the line. */
const waiting = () => sourceList().flatMap(({ role, line }) => (line && role !== 'line' ? [line.take] : []));

/** Takes a file that a talent has saved: what is in it goes into its places. */
export async function takeRecordings(file: File): Promise<void> {
  const { project } = useProject.getState();
  if (!project) return;
  await openSession();
  const read = await runShown(say`Reading ${file.name}`, (options) =>
    exportClient.run('openRecordings', { file, takes: waiting(), projectId: project.id }, options),
  );
  if (!read) return;
  try {
    const caller = callerOfVoice(read.person);
    if (!caller)
      throw new ParolaError(
        'not-found',
        say`None of this project’s takes waits for anything of ${read.name}.`,
      );
    await caller.adopt(read.read);
    notify(
      'success',
      say`${read.name}: ${read.read.length} recordings have come, and are laid in their places.`,
    );
  } catch (thrown) {
    notifyError(thrown);
  }
}
