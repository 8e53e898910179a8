import { FilmFollower } from './filmFollower';

/** What a film is led by: the sound, wherever it comes from. */
export interface FilmLead {
  /** Where the film runs now, in seconds of it; null while it stands. */
  running(): number | null;
  /** Where it stands. */
  standing(): number;
  /** Whether anything may be running. */
  goesOn(): boolean;
  /** Calls whenever something has changed; returns how to stop. */
  changed(wake: () => void): () => void;
}

/** Lets a video element follow what is heard, and stand where it should otherwise. Returns what ends that. */
export function leadFilm(
  video: HTMLVideoElement,
  { running, standing, goesOn, changed }: FilmLead,
): () => void {
  const view = video.ownerDocument.defaultView ?? window;
  const follower = new FilmFollower(video);
  /** Where the sound is at a moment of the page's clock. */
  const clock = (atMs: number) => {
    const seconds = running();
    return seconds === null ? null : seconds + (atMs - performance.now()) / 1000;
  };
  const follow = () => {
    const now = performance.now();
    if (clock(now) === null) follower.stand(standing(), now);
    else follower.run(now, clock);
  };
  let next: number | null = null;
  const again = () => {
    follow();
    next = goesOn() ? view.requestAnimationFrame(again) : null;
  };
  const wake = () => {
    if (next === null) again();
  };
  let seen = video.requestVideoFrameCallback(function shown(_now, { mediaTime, expectedDisplayTime }) {
    follower.saw(mediaTime, expectedDisplayTime, clock);
    seen = video.requestVideoFrameCallback(shown);
  });
  const forget = changed(wake);
  for (const event of ['loadeddata', 'seeked']) video.addEventListener(event, wake);
  wake();
  return () => {
    forget();
    for (const event of ['loadeddata', 'seeked']) video.removeEventListener(event, wake);
    video.cancelVideoFrameCallback(seen);
    if (next !== null) view.cancelAnimationFrame(next);
    video.pause();
  };
}
