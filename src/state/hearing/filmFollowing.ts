import { FilmFollower } from '@/audio/filmFollower';
import { usePart } from '../sheet/part';
import { runningSeconds, standingSeconds, type PartFilm } from './film';
import { useTransport } from './transport';

/**
 * Lets a video element show the film of a part: it follows what is heard, and stands where the caret does, or
 * where somebody drags. Returns what ends that.
 */
export function followFilm(video: HTMLVideoElement, film: PartFilm): () => void {
  const view = video.ownerDocument.defaultView ?? window;
  const follower = new FilmFollower(video);
  /** Where the sound is at a moment of the page's clock. */
  const clock = (atMs: number) => {
    const seconds = runningSeconds(film);
    return seconds === null ? null : seconds + (atMs - performance.now()) / 1000;
  };
  const follow = () => {
    const now = performance.now();
    if (clock(now) === null) follower.stand(standingSeconds(film), now);
    else follower.run(now, clock);
  };
  let next: number | null = null;
  const again = () => {
    follow();
    next = useTransport.getState().mode === 'idle' ? null : view.requestAnimationFrame(again);
  };
  const wake = () => {
    if (next === null) again();
  };
  let seen = video.requestVideoFrameCallback(function shown(_now, { mediaTime, expectedDisplayTime }) {
    follower.saw(mediaTime, expectedDisplayTime, clock);
    seen = video.requestVideoFrameCallback(shown);
  });
  const forget = [useTransport.subscribe(wake), usePart.subscribe(wake)];
  for (const event of ['loadeddata', 'seeked']) video.addEventListener(event, wake);
  wake();
  return () => {
    for (const stop of forget) stop();
    for (const event of ['loadeddata', 'seeked']) video.removeEventListener(event, wake);
    video.cancelVideoFrameCallback(seen);
    if (next !== null) view.cancelAnimationFrame(next);
    video.pause();
  };
}
