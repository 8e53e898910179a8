import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { predictBytes } from '@/core/formats/soundFileSize';
import { judgeAmong, type Judgement } from '@/core/specs/judgeAmong';
import type { Look } from '@/core/specs/looks';
import { equalPieces, type Piece } from '@/core/timeline/pieces';
import { storeSounding } from '@/core/timeline/sounding';
import { loadTimeline, type Timeline } from '@/core/timeline/timeline';
import type { HeardPart, PartProof } from '@/workers/proofJobs';
import { proofClient } from './jobs';
import { notifyError } from './notices';
import { usePart } from './part';
import { sourceList, useSession, type PartRecord } from './session';
import { joinLengths } from './transport';

/** What a part sounds like, as identities: piece lists are immutable, so the same lists are the same sound. */
export type SoundKey = readonly unknown[];

interface Proofing {
  /** Results by part, with what they were measured from: an edit makes a result old. */
  results: ReadonlyMap<string, { of: SoundKey; proof: PartProof }>;
  spectra: ReadonlyMap<string, { of: SoundKey; bands: number[] }>;
  measuring: { partId: string; done: number } | null;
}

export const useProofing = create<Proofing>(() => ({
  results: new Map(),
  spectra: new Map(),
  measuring: null,
}));

let controller: AbortController | null = null;

/** The timeline of a part as it is now, edited or stored. */
export function timelineOf(part: PartRecord): Timeline {
  const open = usePart.getState();
  return open.id === part.id ? open.timeline : loadTimeline(part.timeline);
}

export function soundOf(part: PartRecord): SoundKey {
  const open = usePart.getState();
  const { tracks, output } = open.id === part.id ? open.timeline : part.timeline;
  const pieces = tracks.map((track) => ('table' in track ? track.table.pieces : track.pieces));
  const { project } = useSession.getState();
  return [...pieces, JSON.stringify(output ?? null), project?.spec.file.channels, project?.joinMs];
}

export const sameSound = (a: SoundKey, b: SoundKey) =>
  a.length === b.length &&
  a.every((value, index) => {
    const other = b[index];
    // A part that is opened gets lists of its own, with the same in them.
    return value === other || (Array.isArray(value) && Array.isArray(other) && samePieces(value, other));
  });

const samePieces = (a: readonly Piece[], b: readonly Piece[]) =>
  a.length === b.length && a.every((piece, index) => equalPieces(piece, b[index]));

/** What is heard of a timeline, for a worker; as it would be delivered by the project's spec. */
export const heardOf = (timeline: Timeline): HeardPart => ({
  sounding: storeSounding(timeline),
  sources: sourceList().map(({ id, frames }) => ({ id, frames })),
  rateHz: useSession.getState().project?.rateHz ?? 48_000,
  joins: joinLengths(),
  channels: useSession.getState().project?.spec.file.channels ?? 1,
});

/** A part's result, unless it is old. */
export function proofOf(part: PartRecord): PartProof | null {
  const result = useProofing.getState().results.get(part.id);
  return result && sameSound(result.of, soundOf(part)) ? result.proof : null;
}

/** A measured part against the project's spec, with what only the whole project can tell. */
export function judgePart(proof: PartProof, all: readonly PartProof[]): Judgement | null {
  const { project } = useSession.getState();
  if (!project) return null;
  const { measurement, steps } = proof;
  const { spec, rateHz } = project;
  const { looks, ...judgement } = judgeAmong(spec, measurement, {
    bytes: predictBytes({ format: spec.file, rateHz, frames: measurement.frames }),
    all: all.map((other) => other.measurement),
  });
  if (steps.length === 0) return { ...judgement, looks };
  const step: Look = {
    kind: 'step',
    message: `The wave jumps at ${steps.length === 1 ? 'a join' : `${steps.length} joins`}: it clicks. Give the join a length in the loupe, or move it.`,
    places: steps,
  };
  return { ...judgement, looks: [...looks, step] };
}

/** Measures, one after another, every part whose result is missing or old. A running round is replaced. */
export async function measureParts(): Promise<void> {
  controller?.abort();
  const mine = (controller = new AbortController());
  const { parts } = useSession.getState();
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

/** Measures one part; null when there is nothing in it. Throws `cancelled` and whatever reading its audio does. */
export async function measureOne(part: PartRecord, signal?: AbortSignal): Promise<PartProof | null> {
  const of = soundOf(part);
  const timeline = timelineOf(part);
  if (timeline.tracks[0].table.heardFrames === 0) return null;
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
  if ((known && sameSound(known.of, of)) || timeline.tracks[0].table.heardFrames === 0) return;
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
