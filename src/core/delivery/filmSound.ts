import { cueSheetOf } from '../timeline/cueEdits';
import { heardOfCue } from '../timeline/cueTakes';
import { changeStrip, stripOf } from '../timeline/mixEdits';
import type { LevelPoint } from '../timeline/levelPoints';
import { union } from '../timeline/range';
import { soundingOf, type Sounding, type SoundingSettings } from '../timeline/sounding';
import type { Timeline } from '../timeline/timeline';

/** How far the picture’s own sound goes down while a line is heard, and over how long; *common practice*. */
export const underLineChoices = [0, -12, -20, -60] as const;
const rampSeconds = 0.08;

/**
 * What is heard of a part with its picture’s own sound, which goes down by `underLineDb` wherever something
 * is recorded in a cue.
 */
export function filmSounding(
  timeline: Timeline,
  guide: string,
  underLineDb: number,
  settings: SoundingSettings,
): Sounding {
  const lines = union(
    cueSheetOf(timeline).cues.flatMap((cue) =>
      heardOfCue(timeline, cue) ? [{ from: cue.from, to: cue.to }] : [],
    ),
  );
  const ramp = Math.round(rampSeconds * settings.rateHz);
  const points = lines.flatMap(({ from, to }): LevelPoint[] => [
    { at: Math.max(0, from - ramp), db: 0 },
    { at: from, db: underLineDb },
    { at: to, db: underLineDb },
    { at: to + ramp, db: 0 },
  ]);
  const own = stripOf(timeline, guide);
  const sheet = points.map(({ at }, index) => (index > 0 ? Math.max(at, points[index - 1].at) : at));
  const under = points.map((point, index) => ({ ...point, at: sheet[index] }));
  const changed =
    underLineDb === 0 || lines.length === 0
      ? timeline
      : changeStrip(timeline, guide, { points: under, levelDb: own.levelDb });
  return soundingOf(
    changed,
    settings,
    () => true,
    (id) => id === guide,
  );
}
