import { say } from '@/texts/say';
import { create } from 'zustand';
import { usualStep, addStep, usualOrder } from '@/core/chain/settings';
import {
  moveStep,
  withStep,
  withoutStep,
  type Chain,
  type ChainStep,
  type StepKind,
} from '@/core/chain/chain';
import { stepNames } from '@/core/chain/stepText';
import { changeChain, otherSide, stripOf } from '@/core/timeline/mixEdits';
import { heardTracks } from '@/core/timeline/heard';
import { plainHeardStrip } from '@/core/timeline/levelPoints';
import { soundingOfTracks, type Sounding, type SoundingSettings } from '@/core/timeline/sounding';
import type { Timeline } from '@/core/timeline/timeline';
import { useChainHearing } from '../hearing/chainHearing';
import { chosenStrip, draftStrip, drafted, useMixing } from '../mix/strips';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { isReadOnly, soundingSettings } from '../project/openProject';
import { edit, usePart } from '../sheet/part';

interface Chains {
  /** The step that is looked at, and that keys are for. */
  readonly step: string | null;
  /** The dialog of saved chains is open. */
  readonly choosing: boolean;
}

const none: Chains = { step: null, choosing: false };

export const useChains = create<Chains>(() => none);
whenProjectCloses(() => useChains.setState(none));

export const emptyChain: Chain = { name: '', steps: [] };

export const chainOf = (timeline: Timeline, voice: string): Chain =>
  stripOf(timeline, voice).chain ?? emptyChain;

/** The voice whose chain is shown: the chosen one, or the first where something else is chosen. */
export function shownVoice(timeline: Timeline, chosen: string | null): string | null {
  const { tracks } = timeline;
  return (tracks.find(({ id }) => id === chosen) ?? tracks[0])?.id ?? null;
}

/** The voice whose chain is shown now. */
export const nowShown = () =>
  shownVoice(usePart.getState().timeline, useMixing.getState().chosen ?? chosenStrip().id);

/** The open part as it is being changed. */
const timelineNow = () => drafted(usePart.getState().timeline, useMixing.getState());

const nameOf = (voice: string) =>
  usePart.getState().timeline.tracks.find(({ id }) => id === voice)?.name ?? '';

/** A change on its way: heard and drawn, one step when it ends. */
export function draftStep(voice: string, step: ChainStep): void {
  if (isReadOnly()) return;
  useChains.setState({ step: step.id });
  draftStrip(voice, { chain: withStep(chainOf(usePart.getState().timeline, voice), step) });
}

/** Gives a voice another chain: one step that can be undone. */
export function setChain(voice: string, chain: Chain, label: string): boolean {
  const done = edit(`${label} (${nameOf(voice)})`, (timeline) => changeChain(timeline, voice, chain));
  // After the step: nothing in between is heard as it was.
  useMixing.setState({ draft: null });
  return done;
}

/** Changes a step. What is changed by hand is no longer what it was saved as. */
export function setStep(voice: string, step: ChainStep, label = stepNames[step.kind].toLowerCase()): void {
  useChains.setState({ step: step.id });
  setChain(voice, withStep(chainOf(usePart.getState().timeline, voice), step), label);
}

export function toggleStep(voice: string, id: string): void {
  const step = chainOf(timelineNow(), voice).steps.find((one) => one.id === id);
  if (step)
    setStep(voice, { ...step, on: !step.on }, `${step.on ? say`off` : say`on`}: ${stepNames[step.kind]}`);
}

export function removeStep(voice: string, id: string): void {
  const chain = chainOf(timelineNow(), voice);
  const at = chain.steps.findIndex((step) => step.id === id);
  if (at < 0) return;
  const next = withoutStep(chain, id);
  useChains.setState({ step: next.steps[Math.min(at, next.steps.length - 1)]?.id ?? null });
  if (useChainHearing.getState().alone === id) useChainHearing.setState({ alone: null });
  setChain(voice, next, say`without ${stepNames[chain.steps[at].kind].toLowerCase()}`);
}

export function placeStep(voice: string, id: string, to: number): void {
  const chain = chainOf(timelineNow(), voice);
  const moved = moveStep(chain, id, to);
  if (moved.steps.some((step, index) => step !== chain.steps[index]))
    setChain(voice, moved, say`order of the chain`);
}

/** Adds a step where its kind usually stands; null where there are too many. */
export function putStep(voice: string, kind: StepKind, changes: Partial<ChainStep> = {}): ChainStep | null {
  const chain = chainOf(timelineNow(), voice);
  const step = { ...usualStep(kind, crypto.randomUUID()), ...changes } as ChainStep;
  const next = addStep(chain, step);
  if (next === chain) {
    notify('info', say`A chain has at most 16 steps: take one away first.`);
    return null;
  }
  useChains.setState({ step: step.id });
  setChain(voice, next, say`with ${stepNames[kind].toLowerCase()}`);
  return step;
}

/** The step keys are for, with its chain and place; null where the voice has none. */
export function chosenStep(): { voice: string; chain: Chain; step: ChainStep; at: number } | null {
  const voice = nowShown();
  if (voice === null) return null;
  const chain = chainOf(timelineNow(), voice);
  const { step: id } = useChains.getState();
  const at = Math.max(
    0,
    chain.steps.findIndex((step) => step.id === id),
  );
  const step = chain.steps[at] as ChainStep | undefined;
  return step ? { voice, chain, step, at } : null;
}

const noChain = () => notify('info', say`This voice has no chain yet. Add a step, or choose a saved chain.`);

export function stepThrough(by: -1 | 1): void {
  const chosen = chosenStep();
  if (!chosen) return noChain();
  const { chain, at } = chosen;
  const known = chain.steps.some(({ id }) => id === useChains.getState().step);
  const next = known ? (at + by + chain.steps.length) % chain.steps.length : 0;
  useChains.setState({ step: chain.steps[next].id });
}

export function toggleChosenStep(): void {
  const chosen = chosenStep();
  if (!chosen) return noChain();
  toggleStep(chosen.voice, chosen.step.id);
}

export function moveChosenStep(by: -1 | 1): void {
  const chosen = chosenStep();
  if (!chosen) return noChain();
  placeStep(chosen.voice, chosen.step.id, chosen.at + by);
}

export function removeChosenStep(): void {
  const chosen = chosenStep();
  if (!chosen) return noChain();
  removeStep(chosen.voice, chosen.step.id);
}

/** Hears the chosen step alone, or all of them again. */
export function hearStepAlone(id = chosenStep()?.step.id): void {
  if (id === undefined) return noChain();
  useChainHearing.setState(({ alone }) => ({ alone: alone === id ? null : id, hear: 'finished' }));
}

export const compareHearing = () =>
  useChainHearing.setState(({ hear }) => ({ hear: hear === 'recorded' ? 'finished' : 'recorded' }));
export const hearTaken = () =>
  useChainHearing.setState(({ hear }) => ({ hear: hear === 'taken' ? 'finished' : 'taken' }));
export const toggleEqual = () => useChainHearing.setState(({ equal }) => ({ equal: !equal }));

export const chooseChains = (choosing = true) => useChains.setState({ choosing });

interface AloneOptions {
  /** Without its chain. */
  readonly dry?: boolean;
  /** Through these steps instead of its own. */
  readonly steps?: readonly ChainStep[];
  /** Of the project it is in; the open one's when missing. */
  readonly settings?: SoundingSettings;
}

/** A voice by itself, with its chain and without level, place and output; both sides of a pair. */
export function voiceSounding(
  timeline: Timeline,
  voice: string,
  { dry = false, steps, settings = soundingSettings() }: AloneOptions = {},
): Sounding {
  const other = otherSide(timeline, voice);
  const tracks = heardTracks(timeline).filter((_, index) => {
    const { id } = timeline.tracks[index];
    return id === voice || id === other;
  });
  // The left side is the first channel, whichever of them is shown.
  tracks.sort((a, b) => Number(b.side === 'left') - Number(a.side === 'left'));
  const on = dry ? [] : (steps ?? chainOf(timeline, voice).steps).filter((step) => step.on);
  const strip = on.length > 0 && { strip: { ...plainHeardStrip, chain: on } };
  return soundingOfTracks(
    tracks.map((track) => ({ ...track, ...strip })),
    settings,
  );
}

/** Kinds a chain does not have yet come first. */
export const kindsToAdd = ({ steps }: Chain): readonly StepKind[] => {
  const has = new Set(steps.map(({ kind }) => kind));
  return [...usualOrder.filter((kind) => !has.has(kind)), ...usualOrder.filter((kind) => has.has(kind))];
};
