import { say } from '@/texts/say';
import { create } from 'zustand';
import { filmStartSeconds } from '@/audio/filmFollower';
import { within } from '@/core/base/waiting';
import { stillTime, type Film } from '@/core/cues/film';
import type { Guide } from '@/core/timeline/guides';
import { filmFile } from '@/storage/films';
import { notifyError } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { rateOfProject, type SourceRecord } from '../project/openProject';
import { usePart } from '../sheet/part';
import { headFrame, secondsToSound, useTransport } from './transport';

/** The picture of a part: a guide’s recording that has one, and where on the sheet it begins. */
export interface PartFilm {
  readonly source: string;
  /** Id of the guide that is its sound. */
  readonly guide: string;
  readonly film: Film;
  /** Sheet frame at which frame 0 of its sound stands. */
  readonly origin: number;
}

/** The picture of a part: that of the first guide that has one. */
export function filmOf(
  guides: readonly Guide[],
  sources: ReadonlyMap<string, SourceRecord>,
): PartFilm | null {
  for (const { id: guide, table } of guides) {
    let at = 0;
    for (const piece of table.pieces) {
      const film = piece.kind === 'audio' ? sources.get(piece.source)?.film : undefined;
      if (piece.kind === 'audio' && film)
        return { source: piece.source, guide, film, origin: at - piece.from };
      at += piece.length;
    }
  }
  return null;
}

interface FilmState {
  /** Of which recording, and the address at which its file can be read; null while that is not known. */
  readonly source: string | null;
  readonly address: string | null;
  /** Its file is not on this machine. */
  readonly missing: boolean;
}

const none: FilmState = { source: null, address: null, missing: false };
export const useFilm = create<FilmState>(() => none);

const openMs = 10_000;
const noAnswer = say`The picture could not be opened: the storage of this browser does not answer. Reload the page.`;

/** Shows the film of a recording; none for null. */
export async function showFilm(source: string | null): Promise<void> {
  const { source: shown, address } = useFilm.getState();
  if (shown === source) return;
  if (address) URL.revokeObjectURL(address);
  useFilm.setState({ ...none, source });
  if (source === null) return;
  const file = await within(filmFile(source), openMs, noAnswer).catch((error: unknown) => {
    notifyError(error);
    return null;
  });
  if (useFilm.getState().source !== source) return;
  useFilm.setState(file ? { address: URL.createObjectURL(file) } : { missing: true });
}

whenProjectCloses(() => void showFilm(null));

/** Its file has come meanwhile. */
export async function reshowFilm(): Promise<void> {
  const { source } = useFilm.getState();
  useFilm.setState({ source: null });
  await showFilm(source);
}

/**
 * Where the film runs now, in seconds of it; null while it stands. It begins as long before its sound as a
 * browser takes to start it.
 */
export function runningSeconds({ origin }: PartFilm): number | null {
  const head = headFrame();
  const wait = secondsToSound();
  return head === null || wait > filmStartSeconds ? null : (head - origin) / rateOfProject() - wait;
}

/** Where it stands while nothing runs: at the caret, or where somebody drags. */
export const standingSeconds = ({ film, origin }: PartFilm): number =>
  stillTime(film, (useTransport.getState().scrubbed ?? usePart.getState().caret) - origin, rateOfProject());
