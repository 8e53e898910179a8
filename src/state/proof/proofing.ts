import { say } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { predictBytes } from '@/core/formats/soundFileSize';
import { judgeAmong, type Judgement } from '@/core/specs/judgeAmong';
import type { Look } from '@/core/specs/looks';
import { writtenFramesOf } from '@/core/timeline/guides';
import { sameSounding, soundingOf, type Sounding } from '@/core/timeline/sounding';
import { type Timeline } from '@/core/timeline/timeline';
import { loadTimeline } from '@/core/timeline/stored';
import type { HeardPart, PartProof } from '@/workers/proofJobs';
import { proofClient } from '../page/jobs';
import { notifyError } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { timelineOfPart, usePart } from '../sheet/part';
import { soundingSettings, sourceLengths, useProject, type PartRecord } from '../project/openProject';

/** What a result was made from: the sound, in so many channels. */
export interface MeasuredSound {
  readonly sounding: Sounding;
  readonly channels: number;
}

interface Proofing {
  /** Results by part, with what they were measured from: an edit makes a result old. */
  results: ReadonlyMap<string, { of: MeasuredSound; proof: PartProof }>;
  spectra: ReadonlyMap<string, { of: MeasuredSound; bands: number[] }>;
  measuring: { partId: string; done: number } | null;
}

export const useProofing = create<Proofing>(() => ({
  results: new Map(),
  spectra: new Map(),
  measuring: null,
}));

let controller: AbortController | null = null;

whenProjectCloses(() => {
  controller?.abort();
  useProofing.setState({ results: new Map(), spectra: new Map(), measuring: null });
  void proofClient.run('forget', null).catch(() => undefined);
});

/** The timeline of a part as it is now, edited or stored. */
export const timelineOf = (part: PartRecord): Timeline =>
  timelineOfPart(part.id) ?? loadTimeline(part.timeline);

/** A part's sound as it would be delivered by the project's spec. */
export const soundOf = (part: PartRecord): MeasuredSound => measured(timelineOf(part));

function measured(timeline: Timeline): MeasuredSound {
  const spec = useProject.getState().project?.spec;
  return {
    sounding: soundingOf(timeline, { ...soundingSettings(), dry: spec?.unprocessed }),
    channels: spec?.file.channels ?? 1,
  };
}

export const sameSound = (a: MeasuredSound, b: MeasuredSound) =>
  a.channels === b.channels && sameSounding(a.sounding, b.sounding);

/** What is heard of a timeline, for a worker. */
export const heardOf = (timeline: Timeline): HeardPart => ({
  ...measured(timeline),
  sources: sourceLengths(),
});

/** A part's result, unless it is old. */
export function proofOf(part: PartRecord): PartProof | null {
  const result = useProofing.getState().results.get(part.id);
  return result && sameSound(result.of, soundOf(part)) ? result.proof : null;
}

/** A measured part against the project's spec, with what only the whole project can tell. */
export function judgePart(proof: PartProof, all: readonly PartProof[]): Judgement | null {
  const { project } = useProject.getState();
  if (!project) return null;
  const { measurement, jumps } = proof;
  const { spec, rateHz } = project;
  const { looks, ...judgement } = judgeAmong(spec, measurement, {
    bytes: predictBytes({ format: spec.file, rateHz, frames: measurement.frames }),
    all: all.map((other) => other.measurement),
  });
  if (jumps.length === 0) return { ...judgement, looks };
  const jump: Look = {
    kind: 'jump',
    message: say`The wave jumps at ${jumps.length === 1 ? say`a join` : say`${jumps.length} joins`}: it clicks. Give the join a length in the loupe, or move it.`,
    places: jumps,
  };
  return { ...judgement, looks: [...looks, jump] };
}

/** Measures, one after another, every part whose result is missing or old. A running round is replaced. */
export async function measureParts(): Promise<void> {
  controller?.abort();
  const mine = (controller = new AbortController());
  const { parts } = useProject.getState();
  const openId = usePart.getState().id;
  // The open part first: it is the one that is looked at.
  const ordered = [...parts].sort((a, b) => Number(b.id === openId) - Number(a.id === openId));
  try {
    for (const part of ordered) {
      if (proofOf(part)) continue;
      await measureOne(part, mine.signal);
    }
  } catch (thrown) {
    if (toParolaError(thrown).code !== 'cancelled') notifyError(thrown);
  } finally {
    if (controller === mine) useProofing.setState({ measuring: null });
  }
}

/**
 * Measures one part; null when there is nothing in it. Throws `cancelled` and whatever reading its audio
 * does.
 */
export async function measureOne(part: PartRecord, signal?: AbortSignal): Promise<PartProof | null> {
  const of = soundOf(part);
  const timeline = timelineOf(part);
  if (writtenFramesOf(timeline) === 0) return null;
  useProofing.setState({ measuring: { partId: part.id, done: 0 } });
  const proof = await proofClient.run(
    'measure',
    { ...heardOf(timeline), partId: part.id },
    {
      signal,
      progress: (done) => useProofing.setState({ measuring: { partId: part.id, done } }),
    },
  );
  useProofing.setState(({ results }) => ({ results: new Map(results).set(part.id, { of, proof }) }));
  return proof;
}

/** The long-term spectrum of a part, for its chart. */
export async function measureSpectrum(part: PartRecord): Promise<void> {
  const of = soundOf(part);
  const known = useProofing.getState().spectra.get(part.id);
  const timeline = timelineOf(part);
  if ((known && sameSound(known.of, of)) || writtenFramesOf(timeline) === 0) return;
  try {
    const bands = await proofClient.run('spectrum', heardOf(timeline));
    useProofing.setState(({ spectra }) => ({ spectra: new Map(spectra).set(part.id, { of, bands }) }));
  } catch (thrown) {
    if (toParolaError(thrown).code !== 'cancelled') notifyError(thrown);
  }
}

export function cancelMeasuring(): void {
  controller?.abort();
}

export type { PartProof } from '@/workers/proofJobs';
