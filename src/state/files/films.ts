import { decimal, say } from '@/texts/say';
import { finishSource } from '@/storage/sources';
import { reshowFilm } from '../hearing/film';
import { importClient } from '../page/jobs';
import { notify, notifyError } from '../page/notices';
import { rememberSource, useProject } from '../project/openProject';

/** A film of another length is not the one whose sound is here. */
const sameSeconds = 1;

/** Gives the sound of a film its picture back, from the file the user has chosen. */
export async function replaceFilm(sourceId: string, file: File): Promise<void> {
  const source = useProject.getState().sources.get(sourceId);
  if (!source?.film) return;
  try {
    const { picture } = await importClient.run('look', { file });
    if (!picture || picture.shown !== true)
      return notify('error', say`“${file.name}” has no picture that this browser can show.`, 'cues');
    if (Math.abs(picture.seconds - source.film.seconds) > sameSeconds)
      return notify(
        'error',
        say`“${file.name}” is ${decimal(picture.seconds, 1)} s long and “${source.film.fileName}” ${decimal(source.film.seconds, 1)} s: it is another film. Import it as the picture of the part instead.`,
        'cues',
      );
    const film = await importClient.run('film', { file, sourceId });
    await finishSource(sourceId, { film });
    rememberSource({ ...source, film });
    await reshowFilm();
  } catch (error) {
    notifyError(error, 'cues');
  }
}
