import { heardFrames, openFresh, rate, recordAudio, stored, struck, table } from '../testing/fixture';
import { concat, decodeWithFfmpeg, noise } from '@/core/testing/signals';
import { removeTime } from '@/core/timeline/edits';
import { addTrack } from '@/core/timeline/tracks';
import { findInRange } from '@/workers/findInRange';
import type { FindInput } from '@/workers/analysisJobs';
import { findAll, forgetFindings, openProposals, useFinding } from './finding';
import { layScript } from '../script/lines';
import { nextThing, stepToFault, stepToJoin, stepToMark } from '../script/nextThing';
import { useNotices } from '../page/notices';
import { closePart, edit, partClock, select, setCaret, undo, usePart } from '../sheet/part';
import { cleanPauses } from './pauseCleaning';
import { acceptAll, acceptProposal, describeAction, refuseProposal, stepToProposal } from './proposals';
import { layOutChosen, readingGroups } from './readings';
import { findTone, patchTone, showTone, toneNow } from './roomTone';
import { saved } from '../page/saving';
import { rememberSource, useProject } from '../project/openProject';

/** The worker's own code, in this process. */
jest.mock('../page/jobs', () => {
  const client = {
    release: () => undefined,
    run: (_job: string, input: FindInput, options: { signal?: AbortSignal; progress?: () => void } = {}) =>
      findInRange(input, {
        signal: options.signal ?? new AbortController().signal,
        progress: options.progress ?? (() => undefined),
      }),
  };
  return {
    findingClients: [client, client],
    analysisClient: client,
    runShown: (_title: string, work: (options: object) => Promise<unknown>) =>
      work({ signal: new AbortController().signal, progress: () => undefined }),
  };
});

const stair = decodeWithFfmpeg('public/demo/stair.mp3');
/** From public/demo/truth.csv: the two flubs and the readings that follow them, in seconds. */
const flubs = [
  { from: 10.01, again: 15.664 },
  { from: 22.942, again: 26.72 },
];
const script = [
  'Welcome to the stair.',
  'Before you climb, look down.',
  'The stair has ninety-four steps, and every keeper counted them in the dark.',
  'In the winter of the long storm, the lamp was lit by hand, every four hours, for eleven nights.',
  'The oil was carried up in cans of twelve litres, two at a time.',
].map((text, index) => ({ id: `l${index}`, text }));

const notices = () =>
  useNotices
    .getState()
    .notices.map(({ text }) => text)
    .join(' ');
const ofKind = (kind: string) => openProposals().filter(({ proposal }) => proposal.kind === kind);
const selection = () => usePart.getState().selection;

async function openStair() {
  const opened = await openFresh();
  await recordAudio(stair);
  return opened;
}

const { settings } = useFinding.getState();

beforeEach(() => {
  useNotices.setState({ notices: [] });
  useFinding.setState({ settings });
  forgetFindings();
});
afterEach(async () => {
  await saved();
  closePart();
});

describe('proposals', () => {
  test('stand where they belong, before and after edits elsewhere', async () => {
    await openStair();
    await findAll();
    const restarts = ofKind('restart');
    restarts.forEach(({ range }, index) => {
      const lead = flubs[index].from - range.from / rate;
      expect(lead).toBeGreaterThan(-0.03);
      expect(lead).toBeLessThan(0.17);
      expect(Math.abs(flubs[index].again - range.to / rate - lead)).toBeLessThan(0.05);
    });
    edit('cut', (timeline) => removeTime(timeline, { from: 2 * rate, to: 3 * rate }));
    expect(ofKind('restart').map(({ range }) => range.from)).toEqual(
      restarts.map(({ range }) => range.from - rate),
    );
  });

  test('accepted ones are gone, and open again when the edit is undone', async () => {
    const { project } = await openStair();
    await findAll();
    const before = openProposals().length;
    acceptAll('restart');
    expect(ofKind('restart')).toEqual([]);
    expect(struck()).toHaveLength(2);
    await stored(project.id);
    await undo();
    expect(openProposals()).toHaveLength(before);
  });

  test('one is accepted with the ends the user has given it', async () => {
    await openStair();
    await findAll();
    setCaret(0);
    stepToProposal(1);
    while (useFinding.getState().current !== ofKind('restart')[0].proposal.id) stepToProposal(1);
    const [{ range }] = ofKind('restart');
    select(range.from + 4800, range.to - 4800);
    acceptProposal();
    expect(struck()).toEqual([{ from: range.from + 4800, to: range.to - 4800 }]);
    // The next one is shown already.
    expect(useFinding.getState().current).not.toBeNull();
  });

  test('refused ones do not come back when the part is looked through again', async () => {
    await openStair();
    await findAll();
    setCaret(0);
    stepToProposal(1);
    const refused = useFinding.getState().current;
    refuseProposal();
    expect(openProposals().some(({ proposal }) => proposal.id === refused)).toBe(false);
    await findAll();
    expect(openProposals().some(({ proposal }) => proposal.id === refused)).toBe(false);
  });

  test('pauses become as long as wanted, and are none afterwards', async () => {
    await openStair();
    const longest = 0.9;
    useFinding.setState(({ settings }) => ({
      settings: { ...settings, longestPause: longest, pauseTo: 0.5 },
    }));
    await findAll();
    const pauses = ofKind('longPause');
    expect(pauses.length).toBeGreaterThan(0);
    const clock = partClock();
    const tooLong = pauses.reduce(
      (sum, { range }) => sum + clock.sheetToHeard(range.to) - clock.sheetToHeard(range.from) - rate / 2,
      0,
    );
    const before = heardFrames();
    acceptAll('longPause');
    expect(ofKind('longPause')).toEqual([]);
    expect(heardFrames()).toBe(before - tooLong);
    await findAll();
    expect(ofKind('longPause')).toEqual([]);
  });

  test('one that was accepted and taken back is open, whatever is edited then', async () => {
    const { project } = await openStair();
    await findAll();
    acceptAll('restart');
    await stored(project.id);
    await undo();
    edit('cut', (timeline) => removeTime(timeline, { from: 2 * rate, to: 3 * rate }));
    expect(ofKind('restart')).toHaveLength(2);
    await stored(project.id);
  });

  test('a click waits for room tone, then is covered by it', async () => {
    await openStair();
    await findAll();
    acceptAll('click');
    expect(notices()).toMatch(/no room tone yet/);
    expect(ofKind('click')).toHaveLength(1);
    expect(await findTone()).toBe(true);
    acceptAll('click');
    expect(table().pieces.filter(({ kind }) => kind === 'tone')).toHaveLength(1);
    const heard = heardFrames();
    const [breath] = ofKind('breath');
    acceptAll('breath');
    expect(table().slice(breath.range.from, breath.range.to)[0]).toMatchObject({ gainDb: -10 });
    expect(heardFrames()).toBe(heard);
  });
});

describe('two voices at two microphones', () => {
  const seconds = (from: number, to: number) => stair.slice(Math.round(from * rate), Math.round(to * rate));
  const silence = noise(4 * rate, -65, 3);
  /**
   * Line 1 and a breathless piece of line 3 with almost 4 s between them; the other says line 2 in between,
   * or nothing.
   */
  const one = concat(seconds(0, 1.7), silence, seconds(15.5, 20));
  const other = (speaks: boolean) => {
    const audio = noise(one.length, -65, 4);
    if (speaks) audio.set(seconds(2, 4), Math.round(2.7 * rate));
    return audio;
  };

  async function openTwo(speaks: boolean) {
    const opened = await openFresh();
    edit('add a track', (timeline) => addTrack(timeline, { id: 'track-2', name: 'Guest' }));
    await recordAudio(one, other(speaks));
    await findAll();
    return opened;
  }

  test('while one is silent and the other speaks there is no pause', async () => {
    await openTwo(true);
    expect(ofKind('longPause')).toEqual([]);
  });

  test('where both are silent there is one, and it is shortened for both', async () => {
    await openTwo(false);
    expect(ofKind('longPause')).toHaveLength(1);
    const before = heardFrames();
    acceptAll('longPause');
    expect(before - heardFrames()).toBeGreaterThan(2.5 * rate);
    const { tracks } = usePart.getState().timeline;
    expect(tracks[0].table.frames).toBe(tracks[1].table.frames);
  });

  test('what one broke off while the other spoke goes from that stave alone, and says so', async () => {
    await openFresh();
    edit('add a track', (timeline) => addTrack(timeline, { id: 'track-2', name: 'Guest' }));
    const guest = noise(stair.length, -65, 4);
    // The guest speaks in the middle of the first broken-off reading.
    guest.set(seconds(0.2, 1.2), Math.round((flubs[0].from + 1) * rate));
    await recordAudio(stair, guest);
    await findTone();
    await findAll();
    const [restart] = ofKind('restart');
    const before = heardFrames();
    select(0, 0);
    setCaret(0);
    while (useFinding.getState().current !== restart.proposal.id) stepToProposal(1);
    expect(describeAction(restart)).toBe('Room tone over it on Voice alone: Guest speaks meanwhile');
    acceptProposal();
    expect(struck()).toEqual([]);
    expect(heardFrames()).toBe(before);
    const middle = restart.range.from + rate;
    const kinds = usePart
      .getState()
      .timeline.tracks.map((track) => track.table.slice(middle, middle + 10)[0].kind);
    expect(kinds).toEqual(['tone', 'audio']);
  });
});

describe('room tone', () => {
  test('is found where nobody speaks, shown, and put over a selection as loud as the pauses around', async () => {
    const { project } = await openStair();
    expect(toneNow()).toBeNull();
    expect(await findTone()).toBe(true);
    const tone = toneNow();
    // The demo's room is noise of −65 dBFS.
    expect(Math.abs((tone?.levelDbfs ?? 0) + 65)).toBeLessThan(2);
    showTone();
    expect(selection()).toEqual({ from: tone?.start, to: tone?.end });
    select(Math.round(13.3 * rate), Math.round(13.7 * rate));
    await patchTone();
    const patch = table().pieces.find(({ kind }) => kind === 'tone');
    expect(patch).toMatchObject({ kind: 'tone', length: Math.round(0.4 * rate) });
    expect(Math.abs(patch?.kind === 'tone' ? patch.gainDb : 99)).toBeLessThan(2);
    await stored(project.id);
  });

  test('replaces every pause of a part in one step; breaths stay, softer', async () => {
    await openStair();
    const { historyAt } = usePart.getState();
    await findTone();
    await cleanPauses({ breathsLowerDb: 6 });
    const kinds = table().pieces.map(({ kind }) => kind);
    expect(kinds.filter((kind) => kind === 'tone').length).toBeGreaterThan(8);
    // Lines 1 and 2 are untouched (truth.csv).
    for (const [from, to] of [
      [0.25, 1.25],
      [2.15, 3.8],
    ])
      expect(table().slice(Math.round(from * rate), Math.round(to * rate))).toHaveLength(1);
    const breath = table().slice(Math.round(4.85 * rate), Math.round(4.9 * rate))[0];
    expect(breath).toMatchObject({ kind: 'audio', gainDb: -6 });
    expect(usePart.getState().historyAt).toBe(historyAt + 1);
  });
});

describe('the script', () => {
  test('is laid along the reading; lines that were not read are walked to in the end', async () => {
    const { part } = await openStair();
    const missing = { id: 'never', text: 'This line was never read by anybody, whatever else was.' };
    const all = [...script, missing];
    useProject.setState(({ parts }) => ({
      parts: parts.map((one) => (one.id === part.id ? { ...one, script: all } : one)),
    }));
    await layScript();
    const marks = usePart.getState().timeline.marks.filter(({ kind }) => kind === 'line');
    // Lines 1 to 5 begin at 0.2, 2.109, 5.065, 15.664 and 26.72 s; their marks stand in the pause before.
    const starts = [0.2, 2.109, 5.065, 15.664, 26.72];
    for (const [index, start] of starts.entries()) {
      const mark = marks.find(({ line }) => line === `l${index}`);
      expect(Math.abs((mark?.at ?? 0) / rate - start)).toBeLessThan(0.45);
    }
    await findAll();
    const seen = new Set<number>();
    setCaret(0);
    for (let i = 0; i < 30 && !/not read yet|Nothing is left/.test(notices()); i++) {
      nextThing();
      seen.add(usePart.getState().caret);
    }
    expect(seen.size).toBeGreaterThan(3);
  });

  test('walking says where there is nothing to walk to', async () => {
    await openStair();
    setCaret(0);
    stepToMark(1);
    stepToFault(1);
    stepToJoin(-1);
    expect(notices()).toMatch(/no mark after.*no fault after.*no join before/);
  });
});

test('of a line that was read twice one reading stays, with the spacing that is set', async () => {
  await openFresh();
  const line = stair.slice(Math.round(1.9 * rate), Math.round(4.2 * rate));
  const again = Float32Array.from(line, (value, i) => value * 0.9 + (stair[i] ?? 0) * 0.001);
  const other = stair.slice(Math.round(4.2 * rate), Math.round(9.4 * rate));
  const audio = new Float32Array(line.length * 2 + other.length);
  audio.set(line);
  audio.set(again, line.length);
  audio.set(other, line.length * 2);
  await recordAudio(audio);
  await findAll();
  const [group] = readingGroups();
  expect(group.readings).toHaveLength(2);
  layOutChosen();
  // The first reading goes, all of the second stays, and so does what follows.
  const clock = partClock();
  const [, second] = group.readings;
  const heardOf = ({ from, to }: { from: number; to: number }) =>
    clock.sheetToHeard(to) - clock.sheetToHeard(from);
  expect(heardOf(second)).toBe(second.to - second.from);
  expect(heardOf(group.readings[0])).toBeLessThan(0.2 * rate);
  expect(clock.heardFrames).toBeLessThan(audio.length - line.length * 0.8);
});

test('the silence of a sound check is room tone where the part has none of its own, at the level that was measured', async () => {
  await openFresh();
  const tone = await recordAudio(stair.slice(0, 4 * rate));
  rememberSource({ ...tone, role: 'tone', levelDbfs: -63.5, startedAt: 2 });
  expect(toneNow()).toMatchObject({
    source: tone.id,
    levelDbfs: -63.5,
    origin: 'check',
    start: rate / 2,
    end: 3.5 * rate,
  });
  // Without a level nothing is said about it.
  rememberSource({ ...tone, role: 'tone', startedAt: 3 });
  expect(toneNow()).toBeNull();
});
