import { decimal, say } from '@/texts/say';
import { matchVoices, type VoiceLoudness, type VoiceMatch } from '@/core/specs/voiceMatch';
import { changeStrip, stripOf } from '@/core/timeline/mixEdits';
import { soundingOf } from '@/core/timeline/sounding';
import { planClient, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { ask } from '../page/questions';
import { soundingSettings, sourceLengths } from '../project/openProject';
import { edit, usePart } from '../sheet/part';
import { voicesSpeech } from './words';

const told = (db: number) => `${db > 0 ? '+' : db < 0 ? '−' : ''}${decimal(Math.abs(db), 1)} dB`;

const planText = (plan: readonly VoiceMatch[]) =>
  plan
    .map(
      ({ name, lufs, matchedDb }) =>
        say`${name}: ${decimal(lufs, 1).replace('-', '−')} LUFS now, level ${told(matchedDb)}`,
    )
    .join('. ');

/**
 * Brings every voice's own speech to one loudness by its level: shown first, then one step that can be
 * undone.
 */
export async function evenOutVoices(): Promise<void> {
  const { id, timeline } = usePart.getState();
  if (timeline.tracks.length < 2)
    return notify('info', say`There is one voice here: nothing to bring to one loudness.`);
  const measured = await runShown(say`Measuring the voices`, async (options) => {
    const speech = await voicesSpeech(timeline, options);
    const result: VoiceLoudness[] = [];
    for (const { id: track, name } of timeline.tracks) {
      const ranges = speech.get(track) ?? [];
      const sounding = {
        ...soundingOf(timeline, soundingSettings(), (one) => one === track),
        output: undefined,
      };
      const input = { sounding, sources: sourceLengths(), ranges };
      const lufs = ranges.length > 0 ? await planClient.run('rangesLoudness', input, options) : null;
      result.push({ id: track, name, levelDb: stripOf(timeline, track).levelDb, lufs });
    }
    return result;
  });
  if (!measured) return;
  const plan = matchVoices(measured);
  if (!plan) return notify('info', say`Fewer than two voices say something here.`);
  const answer = await ask({
    title: say`Voices to one loudness`,
    text: planText(plan),
    choices: [
      { id: 'match', label: say`Set these levels` },
      { id: 'leave', label: say`Leave them` },
    ],
  });
  if (answer !== 'match' || usePart.getState().id !== id) return;
  edit(say`voices to one loudness`, (before) =>
    plan.reduce(
      (result, { id: track, matchedDb }) => changeStrip(result, track, { levelDb: matchedDb }),
      before,
    ),
  );
}
