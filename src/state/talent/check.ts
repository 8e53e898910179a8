import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { adviseOn, type Advice } from '@/core/recording/advice';
import { levelProfiles } from '@/core/recording/levelProfiles';
import { removeSource } from '@/storage/sources';
import { currentEngine } from '../hearing/engine';
import { recordCheck, type CheckStep } from '../recording/checking';

interface Check {
  phase: 'ready' | CheckStep | 'measuring' | 'done';
  /** When the running step began, seconds of the page's clock. */
  since: number;
  advice: readonly Advice[];
  failure: string;
}

export const useTalentCheck = create<Check>(() => ({ phase: 'ready', since: 0, advice: [], failure: '' }));

let run = 0;

export function callOffCheck(): void {
  run++;
  useTalentCheck.setState({ phase: 'ready' });
}

/** The same check as in the studio; what was recorded for it goes, the advice stays. */
export async function checkTalent(): Promise<void> {
  const mine = ++run;
  const rateHz = currentEngine()?.context.sampleRate;
  if (!rateHz) return;
  useTalentCheck.setState({ advice: [], failure: '' });
  try {
    const checked = await recordCheck({
      rateHz,
      channel: 0,
      projectId: 'talent/check',
      isWanted: () => mine === run,
      step: (phase) => useTalentCheck.setState({ phase, since: performance.now() / 1000 }),
    });
    if (!checked) return;
    await removeSource(checked.tone.source).catch(() => undefined);
    useTalentCheck.setState({ phase: 'done', advice: adviseOn(checked.result, levelProfiles.quiet) });
  } catch (thrown) {
    useTalentCheck.setState({ phase: 'ready', failure: toParolaError(thrown).message });
  }
}
