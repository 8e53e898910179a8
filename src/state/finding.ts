import { create } from 'zustand';
import {
  defaultFindingOptions,
  describeFinding,
  type Finding,
  type FindingKind,
  type FindingOptions,
} from '@/core/speech/findings';
import type { Speech } from '@/core/speech/voiceActivity';
import { AnchorIndex, anchorAt, type Anchor } from '@/core/timeline/anchors';
import type { Range } from '@/core/timeline/edits';
import type { PieceTable } from '@/core/timeline/pieces';
import { heardFramesOf, type Timeline } from '@/core/timeline/timeline';
import { lookThrough } from './lookThrough';
import { notify, notifyError } from './notices';
import { usePart } from './part';
import { useSession } from './session';

/** A finding with what could be done about it. It knows its place by the recording, so that edits elsewhere do not move it. */
export interface Proposal extends Omit<Finding, 'from' | 'to' | 'again'> {
  readonly id: string;
  readonly trackId: string;
  readonly from: Anchor;
  readonly last: Anchor;
  readonly again: { from: Anchor; last: Anchor } | null;
  readonly reason: string;
  /** Length of the history when it was accepted: undone, it is open again. */
  readonly acceptedAt: number | null;
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
  /** Speech of each track, as it was heard when it was analysed. */
  speech: ReadonlyMap<string, readonly { from: Anchor; last: Anchor }[]>;
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

/** Looks through all that is heard of the open part, on every track. A search that runs is replaced. */
export async function findAll(): Promise<void> {
  cancelFinding();
  const mine = (controller = new AbortController());
  const { id, timeline } = usePart.getState();
  if (!id) return;
  if (heardFramesOf(timeline) === 0)
    return notify('info', 'There is nothing to look through yet: record something first.');
  set({ running: 0, partId: id });
  try {
    const found = await lookThrough(timeline, get().settings, {
      signal: mine.signal,
      progress: (share) => controller === mine && set({ running: share }),
    });
    if (controller !== mine) return;
    const refused = new Set(useSession.getState().parts.find((part) => part.id === id)?.refused);
    const proposals = found.flatMap(({ findings, table, trackId }) =>
      findings.flatMap((finding) => proposalOf(finding, table, trackId)),
    );
    const speech = found.map(
      ({ trackId, table, speech: all }) => [trackId, all.flatMap((one) => anchored(one, table))] as const,
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

/** Heard range as the moments of the recordings at its two ends. */
function anchored({ from, to }: Speech, table: PieceTable): { from: Anchor; last: Anchor }[] {
  const first = anchorAt(table, table.heardToSheet(from));
  const last = anchorAt(table, table.heardToSheet(Math.max(from, to - 1)));
  return first && last ? [{ from: first, last }] : [];
}

function proposalOf(
  { again, from, to, ...finding }: Finding,
  table: PieceTable,
  trackId: string,
): Proposal[] {
  return anchored({ from, to }, table).map((ends) => ({
    ...finding,
    ...ends,
    trackId,
    id: `${finding.kind} ${ends.from.source} ${ends.from.channel} ${Math.round(ends.from.frame / 480)}`,
    again: again ? (anchored(again, table)[0] ?? null) : null,
    reason: describeFinding(finding),
    acceptedAt: null,
  }));
}

/** Forgets what was found, when another part or project is opened. */
export function forgetFindings(): void {
  cancelFinding();
  set(nothing);
}

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

function placed(timeline: Timeline, trackId: string, ends: { from: Anchor; last: Anchor }): Range | null {
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
    .filter(({ acceptedAt }) => acceptedAt === null || acceptedAt >= historyAt)
    .flatMap((proposal) => {
      const range = placed(timeline, proposal.trackId, proposal);
      return range && !isStruck(timeline, range) ? [{ proposal, range }] : [];
    })
    .sort((a, b) => a.range.from - b.range.from);
}

/** What is struck already needs no proposal. */
function isStruck({ tracks }: Timeline, { from, to }: Range): boolean {
  const { table } = tracks[0];
  return table.sheetToHeard(to) === table.sheetToHeard(from);
}

/** Sheet ranges of speech on a track, as far as it is still there. */
export function placedSpeech(trackId: string): Range[] {
  const { timeline } = usePart.getState();
  return (get().speech.get(trackId) ?? []).flatMap((ends) => placed(timeline, trackId, ends) ?? []);
}

export const findingNames: Record<FindingKind, string> = {
  restart: 'Broken-off readings',
  readTwice: 'Read twice',
  longPause: 'Long pauses',
  shortPause: 'Short pauses',
  click: 'Clicks and mouth noise',
  breath: 'Loud breaths',
  level: 'Off the level',
  clipped: 'Clipped',
  filler: 'Fillers and stutters',
};
