import type { FindingKind } from '@/core/speech/findings';
import { anchorAt, type Anchor } from '@/core/timeline/anchors';
import type { Timeline } from '@/core/timeline/timeline';
import { heardFramesOf } from '@/core/timeline/timeline';
import { addTrack } from '@/core/timeline/tracks';
import { heardFrames, messages, openFresh, rate, record, struck, table } from '../testing/fixture';
import { dismissAll } from '../page/notices';
import { rememberPart, useProject } from '../project/openProject';
import { strikeSelection } from '../sheet/editing';
import { edit, select, setCaret, undo, usePart } from '../sheet/part';
import {
  cancelFinding,
  findAll,
  forgetFindings,
  openProposals,
  placedSpeech,
  setFindingSettings,
  speechOfAll,
  useFinding,
  type Proposal,
} from './finding';
import * as proposals from './proposals';

/** What is heard, as it was asked for. */
const mockHeard: { timeline: Timeline; range: { from: number; to: number } }[] = [];
jest.mock('../hearing/playing', () => ({
  playTimeline: (timeline: Timeline, range: { from: number; to: number }) => {
    mockHeard.push({ timeline, range });
    return Promise.resolve();
  },
}));
/** A look through the part that finds what the test says, when it says so. */
let mockLook: () => Promise<unknown> = () => Promise.reject(new Error('not asked for'));
jest.mock('./lookThrough', () => ({ lookThrough: () => mockLook() }));

const anchor = (at: number, track = 0): Anchor => {
  const found = anchorAt(table(track), at);
  if (!found) throw new Error('nothing was recorded there');
  return found;
};

function proposal(kind: FindingKind, from: number, to: number, changes: Partial<Proposal> = {}): Proposal {
  const track = changes.trackId === 'guest' ? 1 : 0;
  return {
    id: `${kind} ${from}`,
    kind,
    trackId: 'track-1',
    from: anchor(from * rate, track),
    last: anchor(to * rate - 1, track),
    again: null,
    reason: '',
    score: 1,
    marked: false,
    amount: 0,
    acceptedBy: null,
    ...changes,
  };
}

const found = (...all: Proposal[]) =>
  useFinding.setState({ partId: usePart.getState().id, searched: true, current: null, proposals: all });
const current = () => useFinding.getState().current;
const { settings } = useFinding.getState();
const open = () => openProposals().map(({ proposal: { id } }) => id);

let partId = '';
beforeEach(async () => {
  useFinding.setState({ settings });
  forgetFindings();
  mockHeard.length = 0;
  ({
    part: { id: partId },
  } = await openFresh());
  record(20);
  dismissAll();
});

const withTone = () =>
  rememberPart(partId, {
    tones: {
      'track-1': { source: sourceOf(), channel: 0, start: 0, end: rate, levelDbfs: -60, origin: 'found' },
    },
  });
const sourceOf = () => {
  const [piece] = table().pieces;
  return piece.kind === 'audio' ? piece.source : '';
};

describe('walking', () => {
  test('goes from proposal to proposal, in order of time, round and round, in both directions', () => {
    found(proposal('restart', 8, 9), proposal('restart', 2, 3), proposal('click', 14, 15));
    setCaret(0);
    const walk = (direction: -1 | 1) => {
      proposals.stepToProposal(direction);
      return current();
    };
    expect([walk(1), walk(1), walk(1), walk(1)]).toEqual(['restart 2', 'restart 8', 'click 14', 'restart 2']);
    expect(usePart.getState()).toMatchObject({
      caret: 2 * rate,
      selection: { from: 2 * rate, to: 3 * rate },
    });
    expect([walk(-1), walk(-1), walk(-1)]).toEqual(['click 14', 'restart 8', 'restart 2']);
  });

  test('starts from the caret where the user has gone elsewhere', () => {
    found(proposal('restart', 2, 3), proposal('restart', 8, 9), proposal('click', 14, 15));
    const from = (seconds: number, direction: -1 | 1) => {
      proposals.stepToProposal(1);
      setCaret(seconds * rate);
      proposals.stepToProposal(direction);
      return current();
    };
    expect(from(5, 1)).toBe('restart 8');
    expect(from(5, -1)).toBe('restart 2');
    expect(from(10, 1)).toBe('click 14');
    expect(from(16, 1)).toBe('restart 2');
    expect(from(16, -1)).toBe('click 14');
    expect(from(1, -1)).toBe('click 14');
  });

  test('says whether anything was looked for', () => {
    proposals.stepToProposal(1);
    expect(messages()).toEqual([expect.stringContaining('Nothing was looked for yet')]);
    dismissAll();
    found();
    proposals.stepToProposal(1);
    expect(messages()).toEqual(['No proposal is open.']);
    dismissAll();
    useFinding.setState({ partId: 'another part' });
    proposals.stepToProposal(1);
    expect(messages()).toEqual([expect.stringContaining('Nothing was looked for yet')]);
  });
});

describe('hearing', () => {
  test('plays it as it will sound, with what is around it', async () => {
    found(proposal('restart', 8, 10));
    await proposals.hearProposal();
    // The first press shows it.
    expect(mockHeard).toEqual([]);
    await proposals.hearProposal();
    expect(mockHeard[0].range).toEqual({ from: 6.5 * rate, to: 11.5 * rate });
    expect(heardFramesOf(mockHeard[0].timeline)).toBe(18 * rate);
    expect(heardFrames()).toBe(20 * rate);
    select(8.5 * rate, 9 * rate);
    await proposals.hearProposal();
    expect(heardFramesOf(mockHeard[1].timeline)).toBe(19.5 * rate);
    // A selection elsewhere is none of its ends.
    select(12 * rate, 13 * rate);
    await proposals.hearProposal();
    expect(heardFramesOf(mockHeard[2].timeline)).toBe(18 * rate);
  });

  test('a pause that becomes shorter is heard to its other side; ends of the sheet are no further', async () => {
    found(proposal('longPause', 0.5, 3.2));
    proposals.stepToProposal(1);
    await proposals.hearProposal();
    expect(mockHeard[0].range).toEqual({ from: 0, to: 4.7 * rate });
    found(proposal('longPause', 17, 19.7));
    proposals.stepToProposal(1);
    await proposals.hearProposal();
    expect(mockHeard[1].range).toEqual({ from: 15.5 * rate, to: 20 * rate });
  });
});

describe('accepting', () => {
  test.each([
    ['restart', 18],
    ['readTwice', 18],
    ['filler', 18],
    ['longPause', 18.7],
    ['shortPause', 18.7],
  ] as const)('%s leaves %d s', (kind, seconds) => {
    found(proposal(kind, 8, 10));
    proposals.stepToProposal(1);
    proposals.acceptProposal();
    expect(heardFrames()).toBe(seconds * rate);
    expect(open()).toEqual([]);
  });

  test('goes on to the next one, and after the last to none', () => {
    found(proposal('restart', 2, 3), proposal('level', 8, 9, { amount: -4 }), proposal('filler', 12, 13));
    proposals.acceptProposal();
    expect(current()).toBe('restart 2');
    proposals.acceptProposal();
    expect(current()).toBe('level 8');
    proposals.acceptProposal();
    expect(table().slice(8 * rate, 9 * rate)[0]).toMatchObject({ gainDb: -4 });
    expect(current()).toBe('filler 12');
    proposals.acceptProposal();
    expect(current()).toBeNull();
    expect(usePart.getState().selection).toBeNull();
  });

  test('a clipped passage is marked, to be read again', () => {
    found(proposal('clipped', 8, 9));
    proposals.stepToProposal(1);
    proposals.acceptProposal();
    expect(usePart.getState().timeline.marks).toMatchObject([
      { kind: 'flub', at: 8 * rate, length: rate, name: 'Clipped: read again' },
    ]);
  });

  test('a click and a breath are covered with room tone, where there is some; a breath is made softer without', () => {
    found(proposal('click', 8, 8.1), proposal('breath', 12, 12.5));
    proposals.stepToProposal(1);
    proposals.acceptProposal();
    expect(messages()).toEqual([expect.stringContaining('There is no room tone yet')]);
    expect(open()).toEqual(['click 8', 'breath 12']);
    withTone();
    proposals.acceptProposal();
    expect(table().slice(8 * rate, 8.1 * rate)[0].kind).toBe('tone');
    expect(current()).toBe('breath 12');
    setFindingSettings({ breathLowerDb: 7 });
    proposals.acceptProposal();
    expect(table().slice(12 * rate, 12.5 * rate)[0]).toMatchObject({ kind: 'audio', gainDb: -7 });
    expect(useFinding.getState().settings.pauseTo).toBe(0.7);
  });

  test('breaths that are patched want room tone', () => {
    setFindingSettings({ breaths: 'patch' });
    found(proposal('breath', 12, 12.5), proposal('level', 14, 15, { amount: 2 }));
    proposals.acceptAll('breath');
    expect(messages()).toEqual([expect.stringContaining('There is no room tone yet')]);
    proposals.acceptAll('level');
    expect(open()).toEqual(['breath 12']);
    withTone();
    proposals.acceptAll('breath');
    expect(table().slice(12 * rate, 12.5 * rate)[0].kind).toBe('tone');
  });

  test('all of a kind are one step; others stay', async () => {
    found(
      proposal('longPause', 2, 4),
      proposal('longPause', 8, 10),
      proposal('restart', 12, 13),
      proposal('longPause', 14, 16),
    );
    const { historyAt } = usePart.getState();
    proposals.acceptAllLikeCurrent();
    expect(current()).toBe('longPause 2');
    proposals.acceptAllLikeCurrent();
    expect(heardFrames()).toBe(Math.round(20 * rate - 3 * 1.3 * rate));
    expect(usePart.getState().historyAt).toBe(historyAt + 1);
    expect(open()).toEqual(['restart 12']);
    expect(current()).toBeNull();
    await undo();
    expect(open()).toHaveLength(4);
  });

  test('what one voice broke off while another spoke goes from that stave alone', () => {
    edit('add track', (timeline) => addTrack(timeline, { id: 'guest', name: 'Guest' }));
    edit('add track', (timeline) => addTrack(timeline, { id: 'third', name: 'Third' }));
    record(20, ['track-1', 'guest', 'third']);
    const speaks = (from: number, to: number, track: number) => ({
      from: anchor(from * rate, track),
      last: anchor(to * rate - 1, track),
    });
    found(proposal('restart', 28, 30), proposal('filler', 32, 33, { trackId: 'guest' }));
    useFinding.setState({
      speech: new Map([
        ['guest', [speaks(22, 23, 1), speaks(29, 31, 1)]],
        ['track-1', [speaks(26, 28, 0)]],
      ]),
    });
    const [restart, filler] = openProposals();
    expect(proposals.describeAction(restart)).toBe(
      'Room tone over it on Voice alone: Guest speaks meanwhile',
    );
    expect(proposals.describeAction(filler)).toBe('Strike it');
    useFinding.setState(({ speech }) => ({
      speech: new Map(speech).set('third', [speaks(28.5, 29, 2)]).set('track-1', [speaks(32.2, 34, 0)]),
    }));
    expect(proposals.describeAction(restart)).toMatch(/Guest and Third speak meanwhile$/);
    expect(proposals.describeAction(filler)).toMatch(/on Guest alone: Voice speaks meanwhile$/);
    // The edge of a word is nobody speaking.
    useFinding.setState({ speech: new Map([['guest', [speaks(27, 28.04, 1)]]]) });
    expect(proposals.describeAction(restart)).toBe('Strike the abandoned reading');
    useFinding.setState({ speech: new Map([['guest', [speaks(27, 28.06, 1)]]]) });
    proposals.stepToProposal(1);
    while (current() !== 'restart 28') proposals.stepToProposal(1);
    proposals.acceptProposal();
    expect(struck()).toEqual([]);
    expect(table(0).slice(28 * rate, 30 * rate)[0].kind).toBe('silence');
    expect(table(1).slice(28 * rate, 30 * rate)[0].kind).toBe('audio');
    expect(placedSpeech('guest')).toEqual([{ from: 27 * rate, to: 28.06 * rate }]);
    expect(speechOfAll()).toEqual([{ from: 27 * rate, to: 28.06 * rate }]);
  });
});

test('what accepting will do is said', () => {
  const kinds: [FindingKind, number, string][] = [
    ['restart', 0, 'Strike the abandoned reading'],
    ['readTwice', 0, 'Strike the first reading'],
    ['filler', 0, 'Strike it'],
    ['longPause', 0, 'Make it 0.7 s'],
    ['shortPause', 0, 'Make it 0.7 s'],
    ['click', 0, 'Room tone over it'],
    ['breath', 0, '10 dB softer'],
    ['level', 2.5, '+2.5 dB'],
    ['level', -3, '−3.0 dB'],
    ['clipped', 0, 'Mark it, to be read again'],
  ];
  for (const [kind, amount, told] of kinds) {
    found(proposal(kind, 2, 3, { amount }));
    expect(proposals.describeAction(openProposals()[0])).toBe(told);
  }
  setFindingSettings({ breaths: 'patch' });
  found(proposal('breath', 2, 3));
  expect(proposals.describeAction(openProposals()[0])).toBe('Room tone over it');
});

describe('refusing', () => {
  test('keeps it with the part, and goes on to the next', () => {
    found(proposal('restart', 2, 3), proposal('restart', 8, 9), proposal('filler', 12, 13));
    proposals.refuseProposal();
    expect(current()).toBe('restart 2');
    proposals.refuseProposal();
    expect(current()).toBe('restart 8');
    proposals.refuseProposal();
    expect(open()).toEqual(['filler 12']);
    expect(useProject.getState().parts[0].refused).toEqual(['restart 2', 'restart 8']);
  });

  test('is not possible where only reading is allowed', () => {
    found(proposal('restart', 2, 3));
    proposals.stepToProposal(1);
    useProject.setState({ readOnly: true });
    proposals.refuseProposal();
    expect(open()).toEqual(['restart 2']);
  });
});

describe('looking', () => {
  const nothingFound = { tracks: [], pauses: [] };

  test('finds what was not refused, and places what is struck nowhere', async () => {
    const finding = (kind: FindingKind, from: number, to: number) => ({
      kind,
      from: from * rate,
      to: to * rate,
      score: 1,
      marked: false,
      amount: 2,
    });
    mockLook = () =>
      Promise.resolve({
        tracks: [
          {
            trackId: 'track-1',
            findings: [finding('restart', 8, 9), finding('filler', 2, 3)],
            speech: [{ from: 2 * rate, to: 9 * rate }],
          },
        ],
        pauses: [finding('longPause', 12, 14)],
      });
    await findAll();
    const ids = open();
    expect(ids).toHaveLength(3);
    expect(openProposals().map(({ range }) => range.from / rate)).toEqual([2, 8, 12]);
    expect(placedSpeech('track-1')).toEqual([{ from: 2 * rate, to: 9 * rate }]);
    proposals.stepToProposal(1);
    proposals.refuseProposal();
    await findAll();
    expect(open()).toEqual(ids.slice(1));
    select(8 * rate, 9 * rate);
    strikeSelection();
    expect(open()).toEqual(ids.slice(2));
  });

  test('a search that was called off, or replaced, changes nothing any more', async () => {
    found(proposal('restart', 2, 3));
    let answer: (result: unknown) => void = () => undefined;
    mockLook = () => new Promise((resolve) => (answer = resolve));
    const search = findAll();
    expect(useFinding.getState().running).toBe(0);
    cancelFinding();
    expect(useFinding.getState().running).toBeNull();
    answer(nothingFound);
    await search;
    expect(open()).toEqual(['restart 2']);
  });

  test('says why it failed, and is over', async () => {
    mockLook = () => Promise.reject(new Error('broken'));
    await findAll();
    expect(messages()).toEqual([expect.stringContaining('broken')]);
    expect(useFinding.getState().running).toBeNull();
  });

  test('where nothing was recorded there is nothing to look through; in no part there is nothing to say', async () => {
    await openFresh();
    await findAll();
    expect(messages()).toEqual([expect.stringContaining('There is nothing to look through yet')]);
    dismissAll();
    usePart.setState({ id: null });
    await findAll();
    expect(messages()).toEqual([]);
    forgetFindings();
    expect(useFinding.getState()).toMatchObject({ proposals: [], searched: false, partId: null });
  });
});
