import { leadFilm } from '@/audio/filmLeading';
import { usePart } from '../sheet/part';
import { runningSeconds, standingSeconds, type PartFilm } from './film';
import { useTransport } from './transport';

/**
 * Lets a video element show the film of a part: it follows what is heard, and stands where the caret does, or
 * where somebody drags. Returns what ends that.
 */
export const followFilm = (video: HTMLVideoElement, film: PartFilm): (() => void) =>
  leadFilm(video, {
    running: () => runningSeconds(film),
    standing: () => standingSeconds(film),
    goesOn: () => useTransport.getState().mode !== 'idle',
    changed(wake) {
      const forget = [useTransport.subscribe(wake), usePart.subscribe(wake)];
      return () => {
        for (const stop of forget) stop();
      };
    },
  });
