import { ParolaError } from '@/core/base/errors';
import type { Film } from '@/core/cues/film';
import { addGuide, guidesOf } from '@/core/timeline/guides';
import { addCues } from '@/core/timeline/cueEdits';
import { sheetFramesOf } from '@/core/timeline/timeline';
import { sourceRecord } from '@/storage/sources';
import type { FoundSound, ImportedSound } from '@/workers/importJobs';
import { messages, openFresh, rate, record, stored, table } from '../testing/fixture';
import { dismissAll, useNotices } from '../page/notices';
import { useQuestion } from '../page/questions';
import { useProject } from '../project/openProject';
import { edit, setCaret, timelineOfPart, usePart } from '../sheet/part';
import { closeImport, offerFiles, runImport, useImporting } from './importing';

/** What looking at a file, and reading it, comes to; by its name. */
const mockLooks = new Map<string, Partial<FoundSound> | Error>();
const mockReads = new Map<string, Partial<ImportedSound> | Error | Promise<never>>();
/** What a film turns out to be, and seconds of silence that were asked for. */
let mockFilm: Film | ParolaError;
const mockSilent: number[] = [];
jest.mock('../page/jobs', () => ({
  importClient: {
    run: async (job: string, { file, silentSeconds }: { file: File; silentSeconds?: number }) => {
      if (job === 'film' && mockFilm instanceof ParolaError) throw mockFilm;
      if (job === 'film') return mockFilm;
      mockSilent.push(silentSeconds ?? 0);
      const answer = await (job === 'look' ? mockLooks : mockReads).get(file.name);
      if (answer instanceof Error) throw answer;
      if (job === 'look')
        return {
          kind: 'wav',
          rateHz: 48_000,
          channels: 1,
          seconds: 1,
          marks: 0,
          origin: null,
          picture: null,
          ...answer,
        };
      return {
        ...{ frames: 48_000, channels: 1, rateHz: 48_000, marks: [], truncated: false, damaged: false },
        ...{ notNumbers: 0, summary: { peakDbfs: -6, loudnessLufs: -20, clippedSamples: 0 } },
        ...answer,
      };
    },
  },
}));

/** Which write to storage finds the disk full. */
let mockFull: 'createSource' | 'finishSource' | null = null;
jest.mock('@/storage/sources', () => {
  const real = jest.requireActual<typeof import('@/storage/sources')>('@/storage/sources');
  const unless =
    <Given extends unknown[]>(name: typeof mockFull, write: (...given: Given) => Promise<void>) =>
    (...given: Given) =>
      mockFull === name ? Promise.reject(full()) : write(...given);
  return {
    ...real,
    createSource: unless('createSource', real.createSource),
    finishSource: unless('finishSource', real.finishSource),
  };
});

const full = () => new ParolaError('storage-full', 'The disk is full.');
const file = (name: string) => new File(['x'], name);
const severities = () => useNotices.getState().notices.map(({ severity }) => severity);
const offered = () => useImporting.getState().files.map(({ file: { name }, problem }) => [name, problem]);
const names = () => useProject.getState().parts.map(({ name }) => name);
const sources = () => [...useProject.getState().sources.values()].map(({ name }) => name);

let projectId = '';
beforeEach(async () => {
  mockFull = null;
  mockLooks.clear();
  mockReads.clear();
  closeImport();
  ({
    project: { id: projectId },
  } = await openFresh());
  dismissAll();
});

async function importFiles(...given: string[]) {
  await offerFiles(given.map(file));
  await runImport();
}

test('files become parts of their own, and are counted', async () => {
  await importFiles('one.wav', 'two.wav');
  expect(names()).toEqual(['One', 'one', 'two']);
  expect(sources()).toEqual(['one', 'two']);
  expect(messages()).toEqual(['2 files are imported.']);
  expect(severities()).toEqual(['success']);
  expect(useImporting.getState()).toMatchObject({ open: false, running: false });
  await stored(projectId);
});

test('only what stands is counted; what does not is told with the reason, and stays in the list', async () => {
  mockReads.set('broken.wav', new ParolaError('damaged-file', 'It is damaged.'));
  mockReads.set('late.wav', full());
  await importFiles('broken.wav', 'good.wav', 'late.wav');
  expect(messages()).toEqual([
    '1 of 3 files are imported. “broken.wav” is not: It is damaged. “late.wav” is not: The disk is full.',
  ]);
  expect(severities()).toEqual(['warning']);
  expect(names()).toEqual(['One', 'good']);
  expect(offered()).toEqual([
    ['broken.wav', 'It is damaged.'],
    ['good.wav', null],
    ['late.wav', 'The disk is full.'],
  ]);
  // Tried again, it takes what is left, and nothing twice.
  mockReads.clear();
  dismissAll();
  await runImport();
  expect(names()).toEqual(['One', 'good', 'broken', 'late']);
  expect(messages()).toEqual(['2 files are imported.']);
});

test('on a full disk nothing is imported, and that is what is said', async () => {
  mockFull = 'createSource';
  await importFiles('one.wav');
  expect(messages()).toEqual(['Nothing is imported. “one.wav” is not: The disk is full.']);
  expect(severities()).toEqual(['error']);
  expect(names()).toEqual(['One']);
  expect(sources()).toEqual([]);
});

test('a source that cannot be kept leaves neither itself nor an empty part', async () => {
  mockFull = 'finishSource';
  await importFiles('one.wav');
  expect(names()).toEqual(['One']);
  expect(sources()).toEqual([]);
  expect(messages()).toEqual(['Nothing is imported. “one.wav” is not: The disk is full.']);
  // With room again it is taken.
  mockFull = null;
  await runImport();
  expect(names()).toEqual(['One', 'one']);
  const left = useProject.getState().parts.map(({ id }) => timelineOfPart(id));
  expect(left.map((timeline) => timeline && sheetFramesOf(timeline))).toEqual([0, 48_000]);
});

test('what is wrong with a file that stands all the same is told', async () => {
  mockReads.set('cut.wav', { truncated: true });
  mockReads.set('odd.wav', { notNumbers: 7 });
  mockReads.set('torn.flac', { damaged: true });
  await importFiles('cut.wav', 'odd.wav', 'torn.flac', 'fine.wav');
  expect(messages()).toEqual([
    expect.stringMatching(
      /^4 files are imported\. “cut\.wav” is cut short.*7 samples of “odd\.wav” are infinite.*“torn\.flac” is damaged/,
    ),
  ]);
  expect(severities()).toEqual(['warning']);
});

test('what is no sound is told beside it, and is not tried', async () => {
  mockLooks.set('letter.mp3', new ParolaError('not-audio', 'No sound.'));
  mockLooks.set('slow.mp3', new ParolaError('no-answer', 'x'));
  await importFiles('letter.mp3', 'slow.mp3');
  expect(offered()).toEqual([
    ['letter.mp3', 'No sound.'],
    ['slow.mp3', expect.stringContaining('within 15 seconds')],
  ]);
  expect(messages()).toEqual([]);
});

test('at the caret several files follow one another; marks come along or not', async () => {
  record(2);
  setCaret(rate);
  const marks = [{ at: 100, length: 0, name: 'The bell' }];
  mockReads.set('one.wav', { marks });
  mockReads.set('two.wav', { marks, frames: 2 * 48_000 });
  await offerFiles([file('one.wav'), file('two.wav')]);
  useImporting.setState({ place: 'caret' });
  await runImport();
  expect(table().pieces.map(({ length }) => length / rate)).toEqual([1, 1, 2, 1]);
  expect(usePart.getState().timeline.marks.map(({ at }) => at)).toEqual([rate + 100, 2 * rate + 100]);
  expect(usePart.getState().caret).toBe(4 * rate);
  const [, second] = table().pieces;
  const id = second.kind === 'audio' ? second.source : '';
  expect(await sourceRecord(id)).toMatchObject({ state: 'kept', trackIds: ['track-1'] });
});

test('into a gap of a part in step nothing is imported, and why is said', async () => {
  record(2);
  const [piece] = table().pieces;
  edit('guide', (before) => addGuide(before, { id: 'g', name: 'Visitor', pieces: [piece] }));
  await offerFiles([file('one.wav')]);
  useImporting.setState({ place: 'caret' });
  const known = useProject.getState().sources.size;
  await runImport();
  expect(messages().at(-1)).toMatch(
    /^Nothing is imported\. .*in step with its guide, and a gap would move its time/,
  );
  expect(useProject.getState().sources.size).toBe(known);
  expect(table().frames).toBe(2 * 48_000);
});

test('cancelled, what has not come leaves nothing; what stands stays', async () => {
  let fail: (reason: Error) => void = () => undefined;
  mockReads.set('two.wav', new Promise((_resolve, reject) => (fail = reject)));
  await offerFiles([file('one.wav'), file('two.wav')]);
  const running = runImport();
  while (names().length < 2) await new Promise((resolve) => setTimeout(resolve, 1));
  closeImport();
  fail(new ParolaError('cancelled', 'Cancelled.'));
  await running;
  expect(names()).toEqual(['One', 'one']);
  expect(sources()).toEqual(['one']);
  expect(messages()).toEqual([]);
});

test.each(['caret', 'leave', null])('a place beyond 100 hours is asked about: %s', async (answer) => {
  record(2);
  setCaret(rate);
  const origin = (timeReference: number) => ({ origin: { timeReference } as FoundSound['origin'] });
  mockLooks.set('fine.wav', origin(0));
  mockLooks.set('far.wav', origin(2 ** 53 - 1));
  await offerFiles([file('fine.wav'), file('far.wav')]);
  useImporting.setState({ place: 'time' });
  const running = runImport();
  while (!useQuestion.getState().question) await new Promise((resolve) => setTimeout(resolve, 1));
  expect(useQuestion.getState().question?.text).toMatch(/“far\.wav” says that it belongs [\d,]{10,} hours/);
  useQuestion.getState().question?.answer(answer);
  await running;
  expect(sheetFramesOf(usePart.getState().timeline)).toBe(2 * rate);
  expect(sources()).toEqual(['Take 1', 'fine', ...(answer === 'caret' ? ['far'] : [])]);
  if (answer === 'caret') expect(table().pieces[1]).toMatchObject({ length: rate });
});

describe('a film', () => {
  const picture = { width: 640, height: 360, seconds: 1, shown: true as const };
  const film: Film = {
    ...{ fileName: 'talk.mp4', bytes: 9, width: 640, height: 360, frames: 24, seconds: 1 },
    rate: { num: 24, den: 1 },
  };
  const sheet = () => usePart.getState().timeline.cueSheet;

  test('becomes the picture of the open part, which is in step with it and counts as it does', async () => {
    mockFilm = film;
    mockLooks.set('talk.mp4', { picture });
    await importFiles('talk.mp4');
    const [guide] = guidesOf(usePart.getState().timeline);
    expect(guide).toMatchObject({ name: 'talk' });
    expect([...useProject.getState().sources.values()]).toMatchObject([{ role: 'guide', film }]);
    expect(sheet()).toMatchObject({ rate: '24', cues: [] });
    expect(messages()).toEqual(['1 file is imported.']);
    await stored(projectId);
  });

  test('with another rate than the cue sheet, or an uneven one, is told', async () => {
    edit('cue', (timeline) =>
      addCues(timeline, [{ id: 'c', number: '1', from: 0, to: 9, text: '', note: '' }]),
    );
    mockFilm = { ...film, rate: { num: 30_000, den: 1001 } };
    mockLooks.set('talk.mp4', { picture });
    await importFiles('talk.mp4');
    expect(messages()).toContain('“talk.mp4” has 29.97 pictures a second, and the cue sheet counts 25.');
    mockFilm = { ...film, rate: null };
    await importFiles('talk.mp4');
    expect(messages().some((text) => text.startsWith('The pictures of “talk.mp4” do not follow'))).toBe(true);
    expect(sheet()?.rate).toBe('25');
  });

  test('that this browser cannot show gives its sound as a guide, and that is said', async () => {
    mockLooks.set('talk.mov', { picture: { ...picture, shown: 'hvc1.1.6.L93.B0' } });
    await importFiles('talk.mov');
    expect(messages()).toEqual([
      '1 file is imported. The picture of “talk.mov” (hvc1.1.6.L93.B0) cannot be shown by this browser; MP4 with H.264 and WebM can. Its sound is the guide.',
    ]);
    expect([...useProject.getState().sources.values()][0].film).toBeUndefined();
  });

  test('without sound is as long as its picture, silent; it is no voice', async () => {
    mockFilm = film;
    mockLooks.set('mute.webm', { channels: 0, rateHz: 0, picture: { ...picture, seconds: 7 } });
    await offerFiles([file('mute.webm')]);
    useImporting.setState({ place: 'parts' });
    await runImport();
    expect(messages()[0]).toContain('It has a picture but no sound');
    expect(names()).toEqual(['One']);
    useImporting.setState({ place: 'guide' });
    mockSilent.length = 0;
    await runImport();
    expect(mockSilent).toEqual([7]);
    expect(guidesOf(usePart.getState().timeline)).toHaveLength(1);
  });

  test('for which there is no room leaves nothing', async () => {
    mockFilm = full();
    mockLooks.set('talk.mp4', { picture });
    await importFiles('talk.mp4');
    expect(messages()).toEqual(['Nothing is imported. “talk.mp4” is not: The disk is full.']);
    expect(sources()).toEqual([]);
    expect(guidesOf(usePart.getState().timeline)).toEqual([]);
  });
});
