import { leadFilm } from '@/audio/filmLeading';
import { filmNumber, readFilmPiece } from '@/core/far/filmPiece';
import type { FilmShown } from '@/core/far/messages';
import { secondsSince } from './studioClock';
import { useTalent } from './talent';

/** Pieces that have not come by then are asked for again. */
const patienceMs = 2500;

let pieces: Uint8Array<ArrayBuffer>[] = [];
let askedMs = 0;
let ask: (film: string, from: number) => void = () => undefined;

/** How pieces are asked for. */
export const onPull = (pull: typeof ask) => (ask = pull);

/** The studio shows a picture, another one, or none; the one that is here stays. */
export function showPicture(film: FilmShown | null): void {
  const shown = useTalent.getState().film;
  if (film?.id === shown?.id) return;
  if (shown?.address) URL.revokeObjectURL(shown.address);
  pieces = [];
  useTalent.setState({ film: film && { ...film, address: null, here: 0 } });
  pull();
}

function pull() {
  const { film } = useTalent.getState();
  if (!film || film.address) return;
  askedMs = performance.now();
  ask(film.id, film.here);
}

/** Called now and then: asks again for what did not come. */
export function pullOn(): void {
  if (performance.now() - askedMs > patienceMs) pull();
}

/** Pieces come in their order, or are asked for again. */
export function takePiece(data: Uint8Array<ArrayBuffer>): void {
  const { film } = useTalent.getState();
  const piece = readFilmPiece(data);
  if (!film || film.address || piece.film !== filmNumber(film.id) || piece.from !== film.here) return;
  pieces.push(new Uint8Array(piece.bytes));
  const here = film.here + piece.bytes.length;
  const whole = here >= film.bytes;
  const address = whole ? URL.createObjectURL(new Blob(pieces)) : null;
  if (whole) pieces = [];
  useTalent.setState({ film: { ...film, here, address } });
  // The studio sends a few dozen at a time.
  if (!whole && pieces.length % 16 === 0) pull();
  else askedMs = performance.now();
}

/** Lets a video element show the picture in step with what is heard here. Returns what ends that. */
export const followPicture = (video: HTMLVideoElement): (() => void) =>
  leadFilm(video, {
    running() {
      const { moving } = useTalent.getState();
      const since = moving?.film?.runs ? secondsSince(moving.at) : null;
      return since === null || !moving?.film ? null : moving.film.seconds + since;
    },
    standing: () => useTalent.getState().moving?.film?.seconds ?? 0,
    goesOn: () => useTalent.getState().moving?.film?.runs ?? false,
    changed: (wake) => useTalent.subscribe(wake),
  });
