import { say } from '@/texts/say';
import { safeName } from '@/core/formats/fileNames';
import { recordingsEnding } from '@/core/far/recordingsFile';
import { exportClient, handOver, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { whoIsThis } from './session';
import { useTalent } from './talent';

/** Saves what the studio does not have as one file, for where nothing can be sent any more. */
export async function saveForStudio(): Promise<void> {
  const { own, name } = useTalent.getState();
  const unsent = own.filter(({ kept, recording }) => !kept && recording.closed && recording.frames > 0);
  const person = whoIsThis();
  if (unsent.length === 0 || !person)
    return notify('info', say`There is nothing to save: the studio has everything that is finished.`);
  const recordings = unsent.map(({ source, recording }) => ({ id: source, recording }));
  const fileName = `${safeName(name)}${recordingsEnding}`;
  const written = await runShown(say`Writing ${fileName}`, (options) =>
    exportClient.run('saveRecordings', { person, name, recordings, fileName }, options),
  );
  if (!written) return;
  await handOver(written);
  notify('success', say`${fileName} is written. Send it to the studio; it knows where each take belongs.`);
}
