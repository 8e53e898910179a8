import { say, withinSentence } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import type { Measurement } from '@/core/loudness/measure';
import {
  chosenSound,
  describeLevel,
  describeSound,
  fixKinds,
  fixOfLook,
  fixOfMeasure,
  type FixKind,
} from '@/core/specs/fixText';
import { defaultFixOptions } from '@/core/specs/levelPlan';
import { planSound } from '@/core/specs/soundPlan';
import { passes } from '@/core/specs/verdicts';
import { sourceStretch } from '@/core/timeline/anchors';
import { applySoundFix, withOutput, type SoundFix } from '@/core/timeline/fixEdits';
import { measureLabels } from '@/core/specs/measures';
import { lookNames } from '@/core/specs/looks';
import type { Spec } from '@/core/specs/spec';
import { heardTable } from '@/core/timeline/heard';
import { sameOutput } from '@/core/timeline/output';
import type { Timeline } from '@/core/timeline/timeline';
import type { Chains } from '@/core/specs/chainPlan';
import { changeChain, otherSide, stripOf } from '@/core/timeline/mixEdits';
import type { PartPlan, VoiceToPlan } from '@/workers/proofJobs';
import { planClient, runShown } from '../page/jobs';
import { notify, notifyError } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { edit, partClock, usePart } from '../sheet/part';
import { selectPart } from '../sheet/parts';
import {
  heardOf,
  judgePart,
  measureOne,
  measureParts,
  proofOf,
  sameSound,
  soundOf,
  useProofing,
  type MeasuredSound,
  type PartProof,
} from './proofing';
import { findTone, keepTone } from '../finds/roomTone';
import { isReadOnly, partRecord, useProject, type PartRecord } from '../project/openProject';
import { toneLookup } from '../project/tones';

/** What a plan depends on: the sound, the spec, and how much may be limited. */
interface PlannedFor {
  sound: MeasuredSound;
  spec: Spec | undefined;
  mostReductionDb: number;
}

/** What would mend a part: rehearsed, not carried out. */
export interface FixPlan {
  of: PlannedFor;
  sound: SoundFix | null;
  levels: PartPlan | null;
  /** What each fix does, in words; a fix that is not needed or not possible is not there. */
  texts: Partial<Record<FixKind, string>>;
  /** Why something cannot be fixed. */
  problems: string[];
  /** The faults that stay when all of it is carried out, by their names. */
  left: string[];
}

interface Fixing {
  plans: ReadonlyMap<string, FixPlan>;
  planning: string | null;
  /** What the last fix of a part promised, with the sound it made. */
  promised: ReadonlyMap<string, { of: MeasuredSound; predicted: Measurement }>;
  /** The most the limiter may take off peaks, dB. */
  mostReductionDb: number;
}

export const useFixing = create<Fixing>(() => ({
  plans: new Map(),
  planning: null,
  promised: new Map(),
  ...defaultFixOptions,
}));

/** A part's plan, unless it is old. */
export function planOf(part: PartRecord): FixPlan | null {
  const plan = useFixing.getState().plans.get(part.id);
  return plan && sameKey(plan.of, keyOf(part)) ? plan : null;
}

const keyOf = (part: PartRecord): PlannedFor => ({
  sound: soundOf(part),
  spec: useProject.getState().project?.spec,
  mostReductionDb: useFixing.getState().mostReductionDb,
});

const sameKey = (a: PlannedFor, b: PlannedFor) =>
  a.spec === b.spec && a.mostReductionDb === b.mostReductionDb && sameSound(a.sound, b.sound);

whenProjectCloses(() => {
  controller?.abort();
  useFixing.setState({ plans: new Map(), planning: null, promised: new Map() });
});

export function setMostReduction(mostReductionDb: number): void {
  useFixing.setState({ mostReductionDb });
  void planOpenPart();
}

let controller: AbortController | null = null;

/**
 * Looks for fixes of the open part, when it has faults that can be fixed; what is planned for another sound
 * is dropped.
 */
export async function planOpenPart(): Promise<FixPlan | null> {
  controller?.abort();
  const mine = (controller = new AbortController());
  const part = partRecord(usePart.getState().id);
  const { project } = useProject.getState();
  if (!part || !project || isReadOnly()) return null;
  const known = planOf(part);
  if (known) return known;
  const proof = proofOf(part);
  const judged = proof && judgePart(proof, [proof]);
  if (!proof || !judged) return null;
  const wanted = new Set([
    ...judged.verdicts.filter((verdict) => !verdict.passes).map(({ measure }) => fixOfMeasure[measure]),
    ...judged.looks.map(({ kind }) => fixOfLook[kind]),
  ]);
  const of = keyOf(part);
  if (![...wanted].some(Boolean)) return null;
  useFixing.setState({ planning: part.id });
  try {
    const plan = await makePlan(part, proof, mine.signal);
    if (plan && sameKey(of, keyOf(part)))
      useFixing.setState(({ plans }) => ({ plans: new Map(plans).set(part.id, plan) }));
    return plan;
  } catch (thrown) {
    if (toParolaError(thrown).code !== 'cancelled') notifyError(thrown);
    return null;
  } finally {
    if (controller === mine) useFixing.setState({ planning: null });
  }
}

async function makePlan(part: PartRecord, proof: PartProof, signal: AbortSignal): Promise<FixPlan | null> {
  const { project } = useProject.getState();
  if (!project) return null;
  const { measurement } = proof;
  const problems: string[] = [];
  let sound = planSound(project.spec, measurement);
  const needsTone = sound && (sound.head > 0 || sound.tail > 0 || sound.holes.length > 0);
  if (sound && needsTone && !(await hasTone(part.id, measurement))) {
    problems.push(
      say`There is no room tone to put in: make a sound check, or select a second in which nobody speaks and choose “Use as room tone” in the Booth.`,
    );
    sound = { head: Math.min(0, sound.head), tail: Math.min(0, sound.tail), holes: [] };
  }
  // Where the room may be what keeps a part from passing, a chain learns it from its tone.
  if (!project.spec.unprocessed && project.spec.limits.noiseFloorDbfs) await findTone();
  const of = keyOf(part);
  const { timeline } = usePart.getState();
  const proposed = sound ? applySoundFix(timeline, sound, toneLookup(part.id)) : timeline;
  const levels = await planClient.run(
    'plan',
    {
      ...heardOf(proposed),
      spec: project.spec,
      mostReductionDb: useFixing.getState().mostReductionDb,
      voices: voicesToPlan(part.id, proposed),
    },
    { signal },
  );
  if (!levels.plan.possible) problems.push(levels.plan.why);
  const texts = textsOf(timeline, sound, levels, measurement.rateHz);
  return { of, sound, levels, texts, problems, left: leftBy(proof, levels.predicted, texts) };
}

/**
 * What is still wrong after a plan: by what was rehearsed; where levels cannot be mended, what none of its
 * fixes is for.
 */
function leftBy(proof: PartProof, predicted: Measurement | null, texts: FixPlan['texts']): string[] {
  const after = predicted ? { ...proof, measurement: predicted } : proof;
  const judged = judgePart(after, [after]);
  if (!judged) return [];
  const stays = (kind: FixKind | undefined) => predicted !== null || !kind || !texts[kind];
  return [
    ...judged.verdicts
      .filter(({ passes: fine, measure }) => !fine && stays(fixOfMeasure[measure]))
      .map(({ measure }) => withinSentence(measureLabels[measure].name)),
    ...judged.looks.filter(({ kind }) => stays(fixOfLook[kind])).map(({ kind }) => lookNames[kind]),
  ];
}

/** One track with a tone is enough: the others are heard over its room. */
async function hasTone(partId: string, measurement: Measurement): Promise<boolean> {
  const known = () => {
    const lookup = toneLookup(partId);
    return usePart.getState().timeline.tracks.some(({ id }) => lookup(id) !== null);
  };
  await findTone();
  return known() || (toneFromEnds(measurement) && known());
}

/** Kept away from the words beside it, and the least that is still a tone. */
const edgeSeconds = 0.1;
const shortestEndSeconds = 0.4;

/**
 * Where there is no whole second of quiet room, the longer one of head and tail is the room tone: better than
 * none.
 */
function toneFromEnds({
  headSeconds,
  tailSeconds,
  durationSeconds,
  rateHz,
  noiseFloorDbfs,
}: Measurement): boolean {
  const [track] = usePart.getState().timeline.tracks;
  const isHead = headSeconds > tailSeconds;
  const from = isHead ? 0 : durationSeconds - tailSeconds + edgeSeconds;
  const to = isHead ? headSeconds - edgeSeconds : durationSeconds;
  const heard = heardTable(track.table, partClock());
  const region = sourceStretch(heard, Math.ceil(from * rateHz), Math.floor(to * rateHz));
  if (!region || region.end - region.start < shortestEndSeconds * rateHz) return false;
  keepTone(track.id, { ...region, levelDbfs: noiseFloorDbfs, origin: 'found' });
  return true;
}

function textsOf(timeline: Timeline, sound: SoundFix | null, levels: PartPlan, rateHz: number) {
  const texts: Partial<Record<FixKind, string>> = {};
  const { plan, chains, cost } = levels;
  if (plan.possible) {
    const level = sameOutput(plan.output, timeline.output) ? '' : describeLevel(plan.output, timeline.output);
    if (chains)
      texts.level = level ? `${capital(cost)}; ${level[0].toLowerCase()}${level.slice(1)}` : capital(cost);
    else if (level) texts.level = level;
  }
  if (!sound) return texts;
  if (sound.head !== 0) texts.head = describeSound('head', sound, rateHz);
  if (sound.tail !== 0) texts.tail = describeSound('tail', sound, rateHz);
  if (sound.holes.length > 0) texts.silence = describeSound('silence', sound, rateHz);
  return texts;
}

const capital = (text: string) => text[0].toUpperCase() + text.slice(1);

/** The voices whose chains a plan may change; a pair is one. */
function voicesToPlan(partId: string, timeline: Timeline): VoiceToPlan[] {
  const lookup = toneLookup(partId);
  const { tracks } = timeline;
  return tracks.flatMap(({ id, side }, place) => {
    const other = otherSide(timeline, id);
    if (side === 'right' && other !== null) return [];
    const otherPlace = tracks.findIndex((track) => track.id === other);
    return [
      {
        id,
        places: otherPlace < 0 ? [place] : [place, otherPlace],
        chain: stripOf(timeline, id).chain ?? { name: '', steps: [] },
        tone: lookup(id),
      },
    ];
  });
}

const withPlanned = (timeline: Timeline, chains: Chains | null): Timeline =>
  Object.entries(chains ?? {}).reduce(
    (result, [voice, chain]) => changeChain(result, voice, chain),
    timeline,
  );

/** Carries out some of a plan, or all of it, on the open part: one step that can be undone. */
export function applyFixes(kinds: readonly FixKind[] = fixKinds): boolean {
  const part = partRecord(usePart.getState().id);
  const plan = part && planOf(part);
  if (!part || !plan) return false;
  const chosen = new Set(kinds.filter((kind) => plan.texts[kind]));
  if (chosen.size === 0) return false;
  const { sound, levels } = plan;
  const output = levels?.plan.possible && chosen.has('level') ? levels.plan.output : undefined;
  const label = chosen.size === 1 ? withinSentence(plan.texts[[...chosen][0]] ?? say`fix`) : say`proof fixes`;
  const done = edit(label, (timeline) => {
    const sounded = sound
      ? applySoundFix(timeline, chosenSound(sound, chosen), toneLookup(part.id))
      : timeline;
    return output ? withOutput(withPlanned(sounded, levels?.chains ?? null), output) : sounded;
  });
  const all = Object.keys(plan.texts).length === chosen.size;
  if (done && all && levels?.predicted) {
    const { predicted } = levels;
    useFixing.setState(({ promised }) => ({
      promised: new Map(promised).set(part.id, { of: soundOf(part), predicted }),
    }));
  }
  return done;
}

/** Gain, ceiling and offset of the open part go; it sounds as it was recorded and edited. */
export const takeOffOutput = () =>
  edit(say`take gain and ceiling off`, (timeline) => withOutput(timeline, undefined));

/** What the fix that made a part what it is now had promised; null when something else did. */
export function promiseOf(part: PartRecord): Measurement | null {
  const promise = useFixing.getState().promised.get(part.id);
  return promise && sameSound(promise.of, soundOf(part)) ? promise.predicted : null;
}

/** Opens every part that does not pass, in turn, and carries out all that can be done for it. */
export async function makeAllPass(): Promise<void> {
  const { parts } = useProject.getState();
  const first = usePart.getState().id;
  const fixed: string[] = [];
  await runShown(say`Making every part pass`, async ({ signal, progress }) => {
    for (const [index, { id }] of parts.entries()) {
      if (signal.aborted) return;
      progress(index / parts.length, parts[index].name);
      await selectPart(id);
      const part = partRecord(id);
      if (!part) continue;
      const proof = proofOf(part) ?? (await measureOne(part, signal));
      const judged = proof && judgePart(proof, [proof]);
      if (!judged || (passes(judged.verdicts) && judged.looks.length === 0)) continue;
      if ((await planOpenPart()) && applyFixes()) fixed.push(part.name);
    }
  });
  if (first) await selectPart(first);
  useProofing.setState({ measuring: null });
  await measureParts();
  notify(
    'info',
    fixed.length === 0
      ? say`There was nothing to fix that a fix is known for. What is left says why beside it.`
      : say`Fixed: ${fixed.join(', ')}. Each can be undone in its part.`,
  );
}
