import { say } from '@/texts/say';
import type { RenderChunk } from '@/audio/player';
import { secondsToFrames } from '@/core/base/units';
import { cueNow } from '../cues/cues';
import { endPlaying, playRendered } from '../hearing/playing';
import { useTransport } from '../hearing/transport';
import { notify, notifyError } from '../page/notices';
import { rateOfProject } from '../project/openProject';
import { cueSettings } from '../project/settings';
import { partClock } from '../sheet/part';
import { companionsOf, rendererOfCompanions } from './companions';
import { armedForCue, placementOfCue, tracksOfCue } from './cuePlan';
import { renderRunUp, runUpOf } from './recording';

/** Where a cue runs on, a dry run of it ends so long after its line. */
const runOutSeconds = 1;

/**
 * Plays the chosen cue as it would be recorded, with run-up, beeps and sweep; its own tracks are not heard
 * while its line is said. The same key ends it.
 */
export async function dryRun(): Promise<void> {
  const { mode, cueRun } = useTransport.getState();
  if (mode === 'playing') endPlaying();
  if (cueRun?.dry) return;
  if (useTransport.getState().mode !== 'idle') return;
  const cue = cueNow();
  if (!cue) return notify('info', say`Choose a cue first.`);
  const rateHz = rateOfProject();
  const placement = placementOfCue(cue);
  const armed = armedForCue(cue).map(({ id }) => id);
  const own = armed.length > 0 ? new Set(armed) : tracksOfCue(cue);
  const runUpFrames = secondsToFrames(cueSettings().runUpSeconds, rateHz);
  const begin = partClock().heardOnward(cue.from);
  const end = begin + (placement.to ?? cue.to + secondsToFrames(runOutSeconds, rateHz)) - cue.from;
  try {
    const runUp = await renderRunUp(cue.from, cueSettings().runUpSeconds, runUpOf(placement));
    if (useTransport.getState().mode !== 'idle') return;
    const companions = companionsOf(placement, own);
    const during = companions && rendererOfCompanions(companions, own);
    const rendered: RenderChunk = async (from, frames) => {
      const channels = runUp.map(() => new Float32Array(frames));
      const at = begin - runUpFrames;
      runUp.forEach((samples, index) => channels[index].set(samples.subarray(from - at, from - at + frames)));
      const heardFrom = Math.max(from, begin);
      const heardTo = Math.min(from + frames, companions?.range.to ?? 0);
      if (!during || heardTo <= heardFrom) return channels;
      const rest = await during(heardFrom, heardTo - heardFrom);
      return rest.map((samples, index) => {
        const whole = channels[index] ?? channels[0].slice();
        whole.set(samples, heardFrom - from);
        return whole;
      });
    };
    const played = playRendered({ from: begin - runUpFrames, to: end }, rendered);
    useTransport.setState({ cueRun: { cue, dry: true, beginsAt: null } });
    await played;
  } catch (error) {
    notifyError(error);
  }
}
