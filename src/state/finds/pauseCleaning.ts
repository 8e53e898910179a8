import { say } from '@/texts/say';
import { writtenFramesOf } from '@/core/timeline/guides';
import type { Range } from '@/core/timeline/range';
import { changeGain } from '@/core/timeline/joints';
import { patchTone } from '@/core/timeline/roomEdits';
import { replaceablePauses } from '@/core/speech/pauseCleaning';
import { defaultFindingOptions } from '@/core/speech/findings';
import { clockOf, heardFramesOf } from '@/core/timeline/timeline';
import { runShown } from '../page/jobs';
import { lookThrough } from './lookThrough';
import { notify } from '../page/notices';
import { edit, usePart } from '../sheet/part';
import { findTone } from './roomTone';
import { rateOfProject } from '../project/openProject';
import { toneLookup } from '../project/tones';

/** What becomes of breaths when pauses are cleaned: they stay, or are made softer by so many dB. */
export interface PauseCleaning {
  breathsLowerDb: number;
}

/**
 * Puts room tone into every pause of the part, on every track; breaths are kept, softer if wanted. One step
 * that can be undone.
 */
export async function cleanPauses({ breathsLowerDb }: PauseCleaning): Promise<void> {
  const { id, timeline } = usePart.getState();
  if (writtenFramesOf(timeline) === 0) return notify('info', say`There is nothing here to clean yet.`);
  if (!(await findTone()))
    return notify(
      'info',
      say`No second of quiet room was found. Choose room tone first: select some, or make a sound check.`,
    );
  const found = await runShown(say`Looking for pauses`, (options) =>
    lookThrough(timeline, { ...defaultFindingOptions, kinds: ['breath'], breathOverDb: 6 }, options),
  );
  const now = usePart.getState();
  // Finding room tone may have filled gaps meanwhile: times are the same, only an edit by hand makes this
  // void.
  if (!found || now.id !== id || heardFramesOf(now.timeline) !== heardFramesOf(timeline)) return;
  const lookup = toneLookup(id);
  const clock = clockOf(timeline);
  edit(say`room tone in all pauses`, (before) =>
    found.tracks.reduce((result, { trackId, findings, speech }) => {
      const only = new Set([trackId]);
      const sheet = ({ from, to }: Range) => ({ from: clock.heardToSheet(from), to: clock.heardToSheet(to) });
      const pauses = replaceablePauses(speech, findings, clock.heardFrames, rateOfProject());
      const patched = pauses
        // A struck passage inside a pause stays as it is: a patch goes up to it.
        .map(sheet)
        .filter((range) => clock.struckIn(range).length === 0)
        .reduce((next, range) => patchTone(next, range, lookup, 0, only), result);
      return breathsLowerDb === 0
        ? patched
        : findings
            .map(sheet)
            .reduce((next, range) => changeGain(next, range, -breathsLowerDb, only), patched);
    }, before),
  );
}
