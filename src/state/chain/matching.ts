import { say } from '@/texts/say';
import { create } from 'zustand';
import { bandsFor, spectrumDifference } from '@/core/chain/matching';
import type { EqualiserStep } from '@/core/chain/chain';
import type { Band } from '@/core/dsp/cookbook';
import { loadTimeline } from '@/core/timeline/stored';
import { loadProject } from '@/storage/projects';
import { sourcesOfProject } from '@/storage/sources';
import type { ChainedSound } from '@/workers/chainJobs';
import { chainClient, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { partRecord, rateOfProject, sourceLengths, useProject } from '../project/openProject';
import { timelineOfPart, usePart } from '../sheet/part';
import { chainOf, setStep, voiceSounding } from './chains';

/** What a voice is matched to. */
export type Reference =
  | { readonly kind: 'part'; readonly partId: string }
  /** A part of another project, such as last week's session. */
  | { readonly kind: 'elsewhere'; readonly projectId: string; readonly partId: string; readonly name: string }
  | { readonly kind: 'file'; readonly file: File };

/** A match that is looked at before it is taken, and the long-term spectrum of a step's input. */
interface Matching {
  readonly proposal: {
    readonly voice: string;
    readonly step: string;
    readonly name: string;
    readonly bands: readonly Band[];
    readonly difference: readonly (number | null)[];
  } | null;
  /** Third-octave levels of what comes into a step, dB. */
  readonly spectrum: { readonly step: string; readonly bands: readonly number[] } | null;
}

export const useMatching = create<Matching>(() => ({ proposal: null, spectrum: null }));
whenProjectCloses(() => useMatching.setState({ proposal: null, spectrum: null }));

function before(voice: string, stepId: string) {
  const { timeline } = usePart.getState();
  const { steps } = chainOf(timeline, voice);
  const at = steps.findIndex(({ id }) => id === stepId);
  return voiceSounding(timeline, voice, { steps: steps.slice(0, Math.max(0, at)) });
}

/** The long-term spectrum of what comes into a step, for its picture. */
export async function lookAtSpectrum(voice: string, stepId: string): Promise<readonly number[] | null> {
  const sounding = before(voice, stepId);
  const bands = await chainClient.run('spectrum', { sounding, sources: sourceLengths() }).catch(() => null);
  if (bands) useMatching.setState({ spectrum: { step: stepId, bands } });
  return bands;
}

/** The first voice of a part as it goes out, with its own chain; null where there is none. */
async function partSound(reference: Exclude<Reference, { kind: 'file' }>): Promise<ChainedSound | null> {
  if (reference.kind === 'part') {
    const record = partRecord(reference.partId);
    const timeline = timelineOfPart(reference.partId) ?? (record && loadTimeline(record.timeline));
    const voice = timeline?.tracks[0]?.id;
    return timeline && voice ? { sounding: voiceSounding(timeline, voice), sources: sourceLengths() } : null;
  }
  const { project, parts } = await loadProject(reference.projectId);
  const part = parts.find(({ id }) => id === reference.partId);
  const timeline = part && loadTimeline(part.timeline);
  const voice = timeline?.tracks[0]?.id;
  if (!timeline || !voice) return null;
  const { rateHz, joinMs } = project;
  const settings = { joins: { joinFrames: Math.round((joinMs / 1000) * rateHz) }, rateHz };
  const sources = (await sourcesOfProject(project.id)).map(({ id, frames }) => ({ id, frames }));
  return { sounding: voiceSounding(timeline, voice, { settings }), sources };
}

/** The parts of another project of this browser. */
export const partsElsewhere = async (projectId: string): Promise<{ id: string; name: string }[]> =>
  (await loadProject(projectId)).parts.map(({ id, name }) => ({ id, name }));

async function spectrumOf(
  reference: Reference,
  options: { signal: AbortSignal },
): Promise<readonly number[] | null> {
  if (reference.kind === 'file') return chainClient.run('fileSpectrum', { file: reference.file }, options);
  const sound = await partSound(reference);
  return sound && chainClient.run('spectrum', sound, options);
}

function nameOf(reference: Reference): string {
  if (reference.kind === 'file') return reference.file.name;
  if (reference.kind === 'elsewhere') return reference.name;
  return useProject.getState().parts.find(({ id }) => id === reference.partId)?.name ?? '';
}

/** Compares what comes into an equaliser with a reference, and shows the bands that would bring it near. */
export async function proposeMatch(voice: string, stepId: string, reference: Reference): Promise<void> {
  const { id } = usePart.getState();
  const name = nameOf(reference);
  const found = await runShown(say`Comparing the two voices`, async (options) => {
    const own = await chainClient.run(
      'spectrum',
      { sounding: before(voice, stepId), sources: sourceLengths() },
      options,
    );
    const theirs = await spectrumOf(reference, options);
    return { difference: theirs && spectrumDifference(own, theirs), own };
  });
  if (!found || usePart.getState().id !== id) return;
  const { difference, own } = found;
  if (!difference)
    return notify(
      'info',
      say`“${name}” and this voice have too little in common to compare: one of them is silent, or no voice.`,
    );
  const bands = bandsFor(difference, rateOfProject());
  if (bands.length === 0)
    return notify('info', say`This voice is as near to “${name}” as eight bands can bring it.`);
  useMatching.setState({
    proposal: { voice, step: stepId, name, bands, difference },
    spectrum: { step: stepId, bands: own },
  });
}

export function takeMatch(): void {
  const { proposal } = useMatching.getState();
  if (!proposal) return;
  const step = chainOf(usePart.getState().timeline, proposal.voice).steps.find(
    ({ id }) => id === proposal.step,
  );
  if (step?.kind === 'equaliser')
    setStep(
      proposal.voice,
      { ...step, bands: proposal.bands } satisfies EqualiserStep,
      say`equaliser matched to “${proposal.name}”`,
    );
  useMatching.setState({ proposal: null });
}

export const leaveMatch = () => useMatching.setState({ proposal: null });
