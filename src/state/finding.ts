import { create } from 'zustand';
import { secondsToFrames } from '@/core/base/units';
import {
  defaultFindingOptions,
  describeFinding,
  type Finding,
  type FindingKind,
  type FindingOptions,
} from '@/core/speech/findings';
import type { Speech } from '@/core/speech/voiceActivity';
import { AnchorIndex, anchorAt, type Anchor } from '@/core/timeline/anchors';
import { addMarks, strike, type Range } from '@/core/timeline/edits';
import { changeGain } from '@/core/timeline/joints';
import type { PieceTable } from '@/core/timeline/pieces';
import { patchTone, setPauseLength } from '@/core/timeline/roomEdits';
import { heardFramesOf, type Timeline } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import { lookThrough } from './lookThrough';
import { notify, notifyError } from './notices';
import { edit, select, setCaret, usePart } from './part';
import { playTimeline } from './playing';
import { changePart } from './projectActions';
import { isReadOnly, rateOfProject, useSession } from './session';
import { toneLookup } from './tones';

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

// — What a proposal does —

function change(timeline: Timeline, { proposal, range }: PlacedProposal): Timeline {
  const { settings } = get();
  const lookup = toneLookup(usePart.getState().id);
  const only = new Set([proposal.trackId]);
  switch (proposal.kind) {
    case 'restart':
    case 'readTwice':
    case 'filler':
      return strike(timeline, range);
    case 'longPause':
    case 'shortPause':
      return setPauseLength(timeline, range, secondsToFrames(settings.pauseTo, rateOfProject()));
    case 'click':
      return patchTone(timeline, range, lookup, 0, only);
    case 'breath':
      return settings.breaths === 'patch'
        ? patchTone(timeline, range, lookup, 0, only)
        : changeGain(timeline, range, -settings.breathLowerDb, only);
    case 'level':
      return changeGain(timeline, range, proposal.amount, only);
    case 'clipped':
      return addMarks(timeline, [
        {
          id: newId(),
          kind: 'flub',
          at: range.from,
          length: range.to - range.from,
          name: 'Clipped: read again',
        },
      ]);
  }
}

/** What accepting does, for the button and the list. */
export function describeAction({ kind, amount }: Pick<Proposal, 'kind' | 'amount'>): string {
  const { settings } = get();
  switch (kind) {
    case 'restart':
      return 'Strike the abandoned reading';
    case 'readTwice':
      return 'Strike the first reading';
    case 'filler':
      return 'Strike it';
    case 'longPause':
    case 'shortPause':
      return `Make it ${settings.pauseTo} s`;
    case 'click':
      return 'Room tone over it';
    case 'breath':
      return settings.breaths === 'patch' ? 'Room tone over it' : `${settings.breathLowerDb} dB softer`;
    case 'level':
      return `${amount > 0 ? '+' : '−'}${Math.abs(amount).toFixed(1)} dB`;
    case 'clipped':
      return 'Mark it, to be read again';
  }
}

const needsTone = ({ kind }: Proposal) =>
  kind === 'click' || (kind === 'breath' && get().settings.breaths === 'patch');

const currentPlaced = (): PlacedProposal | null =>
  openProposals().find(({ proposal }) => proposal.id === get().current) ?? null;

/** The proposal with the ends the user has given it: the selection, where it still touches the proposal. */
function withOwnEnds(item: PlacedProposal): PlacedProposal {
  const { selection } = usePart.getState();
  const touches = selection && selection.from < item.range.to && selection.to > item.range.from;
  return touches ? { ...item, range: selection } : item;
}

export function goToProposal({ proposal, range }: PlacedProposal): void {
  set({ current: proposal.id });
  select(range.from, range.to);
  setCaret(range.from);
}

/** To the next open proposal after the caret (or before it), round and round. */
export function stepToProposal(direction: -1 | 1): void {
  const open = openProposals();
  if (open.length === 0) {
    const { searched } = get();
    return notify(
      'info',
      searched ? 'No proposal is open.' : 'Nothing was looked for yet: “Look through the part” under Finds.',
    );
  }
  const at = open.findIndex(({ proposal }) => proposal.id === get().current);
  const { caret } = usePart.getState();
  const ahead = open.findIndex(({ range }) => range.from > caret);
  const start = at >= 0 ? at + direction : direction > 0 ? ahead : ahead < 0 ? open.length - 1 : ahead - 1;
  goToProposal(open[(Math.max(start, direction > 0 ? 0 : -1) + open.length) % open.length]);
}

const aroundSeconds = 1.5;

/** Lets the current proposal be heard as it will sound. */
export async function hearProposal(): Promise<void> {
  const item = currentPlaced();
  if (!item) return stepToProposal(1);
  const chosen = withOwnEnds(item);
  const { timeline } = usePart.getState();
  const after = change(timeline, chosen);
  const reach = secondsToFrames(aroundSeconds, rateOfProject());
  const { table } = after.tracks[0];
  const from = table.sheetToHeard(Math.min(chosen.range.from, table.sheetFrames));
  const moved = table.sheetFrames - timeline.tracks[0].table.sheetFrames;
  const to = table.sheetToHeard(Math.max(0, chosen.range.to + moved));
  const around = {
    from: table.heardToSheet(Math.max(0, from - reach)),
    to: table.heardToSheet(Math.min(table.heardFrames, to + reach)),
  };
  await playTimeline(after, around);
}

function mark(ids: readonly string[]) {
  const { historyAt } = usePart.getState();
  const accepted = new Set(ids);
  set(({ proposals }) => ({
    proposals: proposals.map((one) => (accepted.has(one.id) ? { ...one, acceptedAt: historyAt - 1 } : one)),
  }));
}

function noTone(items: readonly PlacedProposal[]): boolean {
  const lookup = toneLookup(usePart.getState().id);
  const missing = items.some(({ proposal }) => needsTone(proposal) && !lookup(proposal.trackId));
  if (missing)
    notify(
      'info',
      'There is no room tone yet. Choose “Find room tone” under Room, or make a sound check; then accept again.',
    );
  return missing;
}

/** Accepts the current proposal, with the ends of the selection, and goes on to the next. */
export function acceptProposal(): void {
  const item = currentPlaced();
  if (!item) return stepToProposal(1);
  if (noTone([item])) return;
  const chosen = withOwnEnds(item);
  const next = openProposals().find(({ range }) => range.from > item.range.from);
  if (edit(nameOf(item.proposal), (timeline) => change(timeline, chosen))) mark([item.proposal.id]);
  goOn(next);
}

function goOn(next: PlacedProposal | undefined) {
  const there = next && openProposals().find(({ proposal }) => proposal.id === next.proposal.id);
  if (there) goToProposal(there);
  else {
    set({ current: null });
    usePart.setState({ selection: null });
  }
}

export function refuseProposal(): void {
  const item = currentPlaced();
  if (!item) return stepToProposal(1);
  if (isReadOnly()) return;
  const next = openProposals().find(({ range }) => range.from > item.range.from);
  set(({ proposals }) => ({ proposals: proposals.filter(({ id }) => id !== item.proposal.id) }));
  const { id } = usePart.getState();
  const part = useSession.getState().parts.find((candidate) => candidate.id === id);
  if (part) changePart(part.id, { refused: [...(part.refused ?? []), item.proposal.id] });
  goOn(next);
}

/** Accepts every open proposal of a kind, as one step. */
export function acceptAll(kind: FindingKind): void {
  const items = openProposals().filter(({ proposal }) => proposal.kind === kind);
  if (items.length === 0 || noTone(items)) return;
  // From the end on: what an edit moves comes after it.
  const done = edit(`${items.length} × ${findingNames[kind].toLowerCase()}`, (timeline) =>
    [...items].reverse().reduce(change, timeline),
  );
  if (done) mark(items.map(({ proposal }) => proposal.id));
  set({ current: null });
}

export function acceptAllLikeCurrent(): void {
  const item = currentPlaced();
  if (item) acceptAll(item.proposal.kind);
  else stepToProposal(1);
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

const nameOf = ({ kind }: Proposal) => findingNames[kind].toLowerCase();
