import { say } from '@/texts/say';
import { create } from 'zustand';
import { sharesOf, turnsOf, type Share, type Turn } from '@/core/speech/turns';
import { clockOf, type Timeline } from '@/core/timeline/timeline';
import { runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { usePart } from '../sheet/part';
import { voicesSpeech } from './words';

/** Who speaks when, in sheet frames, as it was found last; of another timeline it says nothing. */
interface Turns {
  readonly of: Pick<Timeline, 'tracks' | 'struck'> | null;
  readonly turns: readonly Turn[];
  readonly shares: readonly Share[];
}

const none: Turns = { of: null, turns: [], shares: [] };

export const useTurns = create<Turns>(() => none);
whenProjectCloses(() => useTurns.setState(none));

/** Whether what was found is about a timeline as it is now. */
export const areOf = ({ of }: Pick<Turns, 'of'>, { tracks, struck }: Timeline) =>
  of?.tracks === tracks && of.struck === struck;

/** Finds who speaks when from the levels of all tracks: bleed of a neighbour is nobody's turn. */
export async function findTurns(): Promise<void> {
  const { timeline } = usePart.getState();
  const speech = await runShown(say`Listening for turns`, (options) => voicesSpeech(timeline, options));
  if (!speech || usePart.getState().timeline.tracks !== timeline.tracks) return;
  const clock = clockOf(timeline);
  const turns = turnsOf(speech);
  if (turns.length === 0) return notify('info', say`Nobody speaks in this part yet.`);
  useTurns.setState({
    of: timeline,
    turns: turns.map((turn) => ({
      ...turn,
      from: clock.heardToSheet(turn.from),
      to: clock.heardToSheet(turn.to - 1) + 1,
    })),
    shares: sharesOf(speech, turns),
  });
}
