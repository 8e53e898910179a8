import type { Measurement } from '../loudness/measure';
import { plainOutput, type Output } from '../timeline/output';
import { planLevels, takenOffsets, type FixOptions, type LevelPlan } from './levelPlan';
import type { Measure } from './measures';
import type { Spec } from './spec';
import { judge, valueFor } from './verdicts';

const aimed: readonly Measure[] = ['integratedLufs', 'rmsDbfs'];
/** A limiter takes a little off the level as well: it is put back until the level is as near as this. */
const nearDb = 0.03;
const mostTurns = 3;

export interface Rehearsal {
  plan: LevelPlan;
  predicted: Measurement | null;
  reductionDb: number;
}

/**
 * Plans the levels of a part and tries the plan out on its audio: what is promised is what was measured.
 * `measure` measures the part with an output, whatever it has now; turn 0 is without any.
 */
export async function rehearseLevels(
  spec: Spec,
  options: FixOptions,
  measure: (
    output: Output | undefined,
    turn: number,
  ) => Promise<{ measurement: Measurement; reductionDb: number }>,
): Promise<Rehearsal> {
  const untouched = await measure(undefined, 0);
  const dcOffsets = takenOffsets(spec, untouched.measurement);
  const hasOffset = dcOffsets.some((offset) => offset !== 0);
  const raw = hasOffset ? await measure({ ...plainOutput, dcOffsets }, 0) : untouched;
  const plan = planLevels(spec, raw.measurement, options, dcOffsets);
  if (!plan.possible) return { plan, predicted: null, reductionDb: 0 };
  let { output } = plan;
  let tried = await measure(output, 1);
  for (let turn = 2; turn <= mostTurns && output.ceiling; turn++) {
    const missing = missingDb(spec, raw.measurement, tried.measurement, output.gainDb);
    if (Math.abs(missing) <= nearDb) break;
    const louder: Output = { ...output, gainDb: Math.round((output.gainDb + missing) * 100) / 100 };
    const next = await measure(louder, turn);
    if (next.reductionDb > options.mostReductionDb) break;
    output = louder;
    tried = next;
  }
  return {
    plan: { ...plan, output, reductionDb: tried.reductionDb },
    predicted: tried.measurement,
    reductionDb: tried.reductionDb,
  };
}

/** What the limiter has taken off the aimed level against gain alone, dB. */
function missingDb(spec: Spec, raw: Measurement, tried: Measurement, gainDb: number): number {
  const measure = aimed.find((candidate) => spec.limits[candidate]);
  // A level that was allowed and still is needs nothing put back.
  const stays =
    gainDb === 0 && judge(spec, tried).every((verdict) => verdict.passes || verdict.measure !== measure);
  if (!measure || stays) return 0;
  const [before, after] = [valueFor(spec, measure, raw), valueFor(spec, measure, tried)];
  const lost = (before ?? 0) + gainDb - (after ?? 0);
  return Number.isFinite(lost) ? lost : 0;
}
