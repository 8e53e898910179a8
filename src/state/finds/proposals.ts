import { decimal, say } from '@/texts/say';
import { secondsToFrames } from '@/core/base/units';
import type { FindingKind } from '@/core/speech/findings';
import { addMarks, strike } from '@/core/timeline/edits';
import { changeGain } from '@/core/timeline/joints';
import { fillGaps, muteStave, patchTone, setPauseLength } from '@/core/timeline/roomEdits';
import { clockOf, sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import {
  findingNames,
  openProposals,
  othersSpeaking,
  useFinding,
  type PlacedProposal,
  type Proposal,
} from './finding';
import { notify } from '../page/notices';
import { edit, lastStep, select, setCaret, usePart } from '../sheet/part';
import { playTimeline } from '../hearing/playing';
import { changePart } from '../project/settings';
import { isReadOnly, rateOfProject, useProject } from '../project/openProject';
import { toneLookup } from '../project/tones';

const set = useFinding.setState;
const get = useFinding.getState;

function change(timeline: Timeline, { proposal, range }: PlacedProposal): Timeline {
  const { settings } = get();
  const lookup = toneLookup(usePart.getState().id);
  const only = new Set([proposal.trackId]);
  switch (proposal.kind) {
    case 'restart':
    case 'readTwice':
    case 'filler':
      return othersSpeaking(proposal.trackId, range).length === 0
        ? strike(timeline, range)
        : muteStave(timeline, proposal.trackId, range, lookup);
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
          name: say`Clipped: read again`,
        },
      ]);
  }
}

/** What accepting does, for the button and the list. */
export function describeAction({ proposal, range }: PlacedProposal): string {
  const { kind, amount, trackId } = proposal;
  const { settings } = get();
  const others = goes(kind) ? othersSpeaking(trackId, range) : [];
  if (others.length > 0) {
    const name = usePart.getState().timeline.tracks.find(({ id }) => id === trackId)?.name ?? say`one stave`;
    return say`Room tone over it on ${name} alone: ${others.join(say` and `)} ${others.length > 1 ? say`speak` : say`speaks`} meanwhile`;
  }
  switch (kind) {
    case 'restart':
      return say`Strike the abandoned reading`;
    case 'readTwice':
      return say`Strike the first reading`;
    case 'filler':
      return say`Strike it`;
    case 'longPause':
    case 'shortPause':
      return say`Make it ${settings.pauseTo} s`;
    case 'click':
      return say`Room tone over it`;
    case 'breath':
      return settings.breaths === 'patch' ? say`Room tone over it` : say`${settings.breathLowerDb} dB softer`;
    case 'level':
      return `${amount > 0 ? '+' : '−'}${decimal(Math.abs(amount), 1)} dB`;
    case 'clipped':
      return say`Mark it, to be read again`;
  }
}

/** Its passage goes altogether when it is accepted. */
const goes = (kind: FindingKind) => kind === 'restart' || kind === 'readTwice' || kind === 'filler';

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
    const { searched, partId } = get();
    return notify(
      'info',
      searched && partId === usePart.getState().id
        ? say`No proposal is open.`
        : say`Nothing was looked for yet: “Look through the part” under Finds.`,
    );
  }
  const { caret } = usePart.getState();
  // From the one that is shown, unless the user has gone elsewhere meanwhile.
  const at = open.findIndex(({ proposal, range }) => proposal.id === get().current && range.from === caret);
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
  const after = fillGaps(change(timeline, chosen), toneLookup(usePart.getState().id));
  const reach = secondsToFrames(aroundSeconds, rateOfProject());
  const clock = clockOf(after);
  const from = clock.sheetToHeard(Math.min(chosen.range.from, clock.sheetFrames));
  const moved = clock.sheetFrames - sheetFramesOf(timeline);
  const to = clock.sheetToHeard(Math.max(0, chosen.range.to + moved));
  const around = {
    from: clock.heardToSheet(Math.max(0, from - reach)),
    to: clock.heardToSheet(Math.min(clock.heardFrames, to + reach)),
  };
  await playTimeline(after, around);
}

function mark(ids: readonly string[]) {
  const acceptedBy = lastStep();
  const accepted = new Set(ids);
  set(({ proposals }) => ({
    proposals: proposals.map((one) => (accepted.has(one.id) ? { ...one, acceptedBy } : one)),
  }));
}

function noTone(items: readonly PlacedProposal[]): boolean {
  const lookup = toneLookup(usePart.getState().id);
  const missing = items.some(({ proposal }) => needsTone(proposal) && !lookup(proposal.trackId));
  if (missing)
    notify(
      'info',
      say`There is no room tone yet. Choose “Find room tone” under Room, or make a sound check; then accept again.`,
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
  const part = useProject.getState().parts.find((candidate) => candidate.id === id);
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

const nameOf = ({ kind }: Proposal) => findingNames[kind].toLowerCase();
