import { say } from '@/texts/say';
import { create } from 'zustand';
import {
  defaultFindingOptions,
  describeFinding,
  type Finding,
  type FindingKind,
  type FindingOptions,
} from '@/core/speech/findings';
import { together } from '@/core/speech/severalVoices';
import type { Speech } from '@/core/speech/voiceActivity';
import { isInStep, writtenFramesOf } from '@/core/timeline/guides';
import { AnchorIndex, anchorAt, type Anchor } from '@/core/timeline/anchors';
import type { Range } from '@/core/timeline/range';
import { clockOf, type Timeline } from '@/core/timeline/timeline';
import { lookThrough } from './lookThrough';
import { notify, notifyError } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { stands, usePart, type MadeStep } from '../sheet/part';
import { rateOfProject, useProject } from '../project/openProject';

/**
 * A finding with what could be done about it. It knows its place by the recording, so that edits elsewhere do
 * not move it.
 */
export interface Proposal extends Omit<Finding, 'from' | 'to' | 'again'> {
  readonly id: string;
  /** Where it was found; of a pause, the track it is anchored on. */
  readonly trackId: string;
  readonly from: Anchor;
  readonly last: Anchor;
  readonly again: Ends | null;
  readonly reason: string;
  /** The step that accepted it: while that is undone, the proposal is open again. */
  readonly acceptedBy: MadeStep | null;
}

/** A proposal where it stands on the sheet now. */
export interface PlacedProposal {
  proposal: Proposal;
  range: Range;
}

export interface FindingSettings extends FindingOptions {
  /** What long and short pauses are set to, in seconds. */
  pauseTo: number;
  /** Breaths are made softer by this, or patched with room tone. */
  breathLowerDb: number;
  breaths: 'lower' | 'patch';
}

interface FindingState {
  partId: string | null;
  proposals: readonly Proposal[];
  /** What each track's own voice says, as it was heard when it was analysed. */
  speech: ReadonlyMap<string, readonly Ends[]>;
  settings: FindingSettings;
  /** The share that is done, while a search runs. */
  running: number | null;
  current: string | null;
  searched: boolean;
}

const nothing = {
  partId: null,
  proposals: [],
  speech: new Map(),
  running: null,
  current: null,
  searched: false,
};

export const useFinding = create<FindingState>(() => ({
  ...nothing,
  settings: { ...defaultFindingOptions, pauseTo: 0.7, breathLowerDb: 10, breaths: 'lower' },
}));

const set = useFinding.setState;
const get = useFinding.getState;

export const setFindingSettings = (changes: Partial<FindingSettings>) =>
  set(({ settings }) => ({ settings: { ...settings, ...changes } }));

let controller: AbortController | null = null;

export function cancelFinding(): void {
  controller?.abort();
  controller = null;
  set({ running: null });
}

/** Lengths of pauses are not looked for in a part in step: its time stays. */
function settingsFor(timeline: Timeline): FindingOptions {
  const { settings } = get();
  if (!isInStep(timeline)) return settings;
  return {
    ...settings,
    kinds: settings.kinds.filter((kind) => kind !== 'longPause' && kind !== 'shortPause'),
  };
}

/** Looks through all that is heard of the open part, on every track. A search that runs is replaced. */
export async function findAll(): Promise<void> {
  cancelFinding();
  const mine = (controller = new AbortController());
  const { id, timeline } = usePart.getState();
  if (!id) return;
  if (writtenFramesOf(timeline) === 0)
    return notify('info', say`There is nothing to look through yet: record something first.`);
  set({ running: 0, partId: id });
  try {
    const found = await lookThrough(timeline, settingsFor(timeline), {
      signal: mine.signal,
      progress: (share) => controller === mine && set({ running: share }),
    });
    if (controller !== mine) return;
    const refused = new Set(useProject.getState().parts.find((part) => part.id === id)?.refused);
    const proposals = [
      ...found.tracks.flatMap(({ findings, trackId }) =>
        findings.flatMap((finding) => proposalOf(finding, timeline, trackId)),
      ),
      ...found.pauses.flatMap((finding) => proposalOf(finding, timeline, null)),
    ];
    const speech = found.tracks.map(
      ({ trackId, speech: all }) =>
        [trackId, all.flatMap((one) => anchored(one, timeline, trackId))] as const,
    );
    set({
      proposals: proposals.filter((one) => !refused.has(one.id)),
      speech: new Map(speech),
      current: null,
      searched: true,
    });
  } catch (error) {
    notifyError(error);
  } finally {
    if (controller === mine) set({ running: null });
  }
}

interface Ends {
  from: Anchor;
  last: Anchor;
}

/**
 * Heard range as the moments of a track's recordings at its two ends; none where nothing was recorded there.
 */
function anchored({ from, to }: Speech, timeline: Timeline, trackId: string): Ends[] {
  const clock = clockOf(timeline);
  const table = timeline.tracks.find(({ id }) => id === trackId)?.table;
  if (!table) return [];
  const first = anchorAt(table, clock.heardToSheet(from));
  const last = anchorAt(table, clock.heardToSheet(Math.max(from, to - 1)));
  return first && last ? [{ from: first, last }] : [];
}

/** A finding of one track, or of all (null): then it is anchored on the first that has a recording there. */
function proposalOf({ again, ...finding }: Finding, timeline: Timeline, trackId: string | null): Proposal[] {
  const { from, to, ...told } = finding;
  for (const id of trackId === null ? timeline.tracks.map((track) => track.id) : [trackId]) {
    const [ends] = anchored({ from, to }, timeline, id);
    if (!ends) continue;
    return [
      {
        ...told,
        ...ends,
        trackId: id,
        id: `${finding.kind} ${ends.from.source} ${ends.from.channel} ${Math.round(ends.from.frame / 480)}`,
        again: again ? (anchored(again, timeline, id)[0] ?? null) : null,
        reason: describeFinding(finding),
        acceptedBy: null,
      },
    ];
  }
  return [];
}

/** Forgets what was found, when another part or project is opened. */
export function forgetFindings(): void {
  cancelFinding();
  set(nothing);
}
whenProjectCloses(forgetFindings);

let lastIndex: { timeline: Timeline; indices: Map<string, AnchorIndex> } | null = null;

function indexOf(timeline: Timeline, trackId: string): AnchorIndex | null {
  if (lastIndex?.timeline !== timeline) lastIndex = { timeline, indices: new Map() };
  const known = lastIndex.indices.get(trackId);
  if (known) return known;
  const track = timeline.tracks.find(({ id }) => id === trackId);
  if (!track) return null;
  const index = new AnchorIndex(track.table);
  lastIndex.indices.set(trackId, index);
  return index;
}

function placed(timeline: Timeline, trackId: string, ends: Ends): Range | null {
  const index = indexOf(timeline, trackId);
  const from = index?.sheetOf(ends.from) ?? null;
  const last = index?.sheetOf(ends.last) ?? null;
  return from !== null && last !== null && last >= from ? { from, to: last + 1 } : null;
}

/** Proposals that are still open, where they stand now, in order of time. */
export function openProposals(
  { proposals, partId }: Pick<FindingState, 'proposals' | 'partId'> = get(),
  {
    id,
    timeline,
    historyAt,
  }: Pick<ReturnType<typeof usePart.getState>, 'id' | 'timeline' | 'historyAt'> = usePart.getState(),
): PlacedProposal[] {
  if (partId !== id) return [];
  return proposals
    .filter(({ acceptedBy }) => acceptedBy === null || !stands(acceptedBy, { id, historyAt }))
    .flatMap((proposal) => {
      const range = placed(timeline, proposal.trackId, proposal);
      // What is struck already needs no proposal.
      return range && !clockOf(timeline).isAllStruck(range) ? [{ proposal, range }] : [];
    })
    .sort((a, b) => a.range.from - b.range.from);
}

/** Sheet ranges of speech on a track, as far as it is still there. */
export function placedSpeech(trackId: string): Range[] {
  const { timeline } = usePart.getState();
  return (get().speech.get(trackId) ?? []).flatMap((ends) => placed(timeline, trackId, ends) ?? []);
}

/** Sheet ranges in which anybody speaks, on whatever track. */
export const speechOfAll = (): Range[] =>
  together(usePart.getState().timeline.tracks.map(({ id }) => placedSpeech(id)));

/** Less than this of a voice is the edge of a word. */
const leastSpeechSeconds = 0.05;

/** The tracks other than one on which somebody speaks in a sheet range, as far as the search knows. */
export function othersSpeaking(trackId: string, { from, to }: Range): string[] {
  const least = leastSpeechSeconds * rateOfProject();
  const { tracks } = usePart.getState().timeline;
  return tracks
    .filter(({ id }) => id !== trackId)
    .filter(({ id }) =>
      placedSpeech(id).some((one) => Math.min(to, one.to) - Math.max(from, one.from) > least),
    )
    .map(({ name }) => name);
}

export const findingNames: Record<FindingKind, string> = {
  restart: say`Broken-off readings`,
  readTwice: say`Read twice`,
  longPause: say`Long pauses`,
  shortPause: say`Short pauses`,
  click: say`Clicks and mouth noise`,
  breath: say`Loud breaths`,
  level: say`Off the level`,
  clipped: say`Clipped`,
  filler: say`Fillers and stutters`,
};
