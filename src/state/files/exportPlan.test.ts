import { openFresh, rate, record } from '../testing/fixture';
import { plainFormat } from '@/core/specs/fileFormat';
import { withOutput } from '@/core/timeline/fixEdits';
import { addTrack } from '@/core/timeline/tracks';
import { strike } from '@/core/timeline/edits';
import { planExport, useExportOptions } from './exportPlan';
import { addMark } from '../sheet/marks';
import { closePart, edit, select } from '../sheet/part';
import { changePart, setSpec } from '../project/settings';
import { judgePart, sameSound, soundOf } from '../proof/proofing';
import { saved } from '../page/saving';
import { keepSpec, specNamed, useSpecLibrary } from '../project/specLibrary';
import { useNotices } from '../page/notices';
import { useProject } from '../project/openProject';

afterEach(async () => {
  await saved();
  closePart();
});

const options = (changes: Partial<ReturnType<typeof useExportOptions.getState>> = {}) => ({
  ...useExportOptions.getState(),
  ...changes,
});
const specNow = () => {
  const spec = useProject.getState().project?.spec;
  if (!spec) throw new Error('no project');
  return spec;
};

test('one file for each part that has something in it, numbered by its place, named by the spec', async () => {
  await openFresh('Arrival', 'The stair', 'The lamp');
  record(10);
  const { items, files } = planExport(options());
  expect(files.map(({ fileName }) => fileName)).toEqual(['Test_01_Arrival.wav']);
  // Dry voice is 24-bit mono at 48 kHz: 44 bytes of header, three bytes a frame.
  expect(files[0].bytes).toBe(44 + 10 * rate * 3);
  expect(items[0]).toMatchObject({ partName: 'Arrival', range: { from: 0, to: 10 * rate } });
});

test('every deliverable of the spec, of each part, no two of one name', async () => {
  await openFresh('Arrival');
  record(4);
  const spec = specNow();
  setSpec({
    ...spec,
    more: [
      { ...plainFormat, encoding: 'pcm16' },
      { ...plainFormat, container: 'mp3', encoding: 'pcm16' },
    ],
    naming: '{part}',
  });
  expect(planExport(options()).files.map(({ fileName }) => fileName)).toEqual([
    'Arrival.wav',
    'Arrival-2.wav',
    'Arrival.mp3',
  ]);
  // A format that was chosen by hand is the only one.
  const own = options({ format: { ...plainFormat, container: 'flac' }, naming: '{nn} {spec}' });
  expect(planExport(own).files.map(({ fileName }) => fileName)).toEqual(['01-Dry-voice.flac']);
});

test('each voice in a file of its own: with the part’s gain, in mono, and its name; a silent one has none', async () => {
  await openFresh('Talk');
  record(4);
  edit('track', (timeline) => addTrack(timeline, { id: 'track-2', name: 'Guest', side: 'right' }));
  edit('track', (timeline) => addTrack(timeline, { id: 'track-3', name: 'Nobody' }));
  edit('copy', (timeline) => ({
    ...timeline,
    tracks: timeline.tracks.map((track) =>
      track.id === 'track-2' ? { ...track, table: timeline.tracks[0].table } : track,
    ),
  }));
  edit('gain', (timeline) => withOutput(timeline, { gainDb: 3, dcOffsets: [0.1, 0.1], ceiling: null }));
  const { items, files } = planExport(options({ what: 'each' }));
  expect(files.map(({ fileName }) => fileName)).toEqual(['Test_01_Talk-Voice.wav', 'Test_01_Talk-Guest.wav']);
  expect(items[1].sounding.tracks).toEqual([{ pieces: items[0].sounding.tracks[0].pieces }]);
  expect(items[1].sounding.output).toEqual({ gainDb: 3, dcOffsets: [0, 0], ceiling: null });
  expect(planExport(options({ what: 'each', naming: '{voice}' })).files[1].fileName).toBe('Guest.wav');
  expect(planExport(options()).files.map(({ fileName }) => fileName)).toEqual(['Test_01_Talk.wav']);
});

test('a selection is what is heard of it; marks in it count from its start, struck ones are not there', async () => {
  await openFresh('Arrival');
  record(20);
  addMark('note', 5 * rate);
  addMark('note', 8 * rate);
  addMark('flub', 12 * rate);
  edit('strike', (timeline) => strike(timeline, { from: 7 * rate, to: 9 * rate }));
  select(4 * rate, 14 * rate);
  const format = { ...plainFormat, marks: true, broadcast: true };
  const [item] = planExport(options({ scope: 'selection', format })).items;
  // Samples at the rate of the file (EBU Tech 3285), so that it can be put back where it is from.
  expect(item.broadcast?.timeReference).toBe(4 * plainFormat.rateHz);
  expect(item.range).toEqual({ from: 4 * rate, to: 12 * rate });
  expect(item.fileName).toBe('Test_01_Arrival-passage.wav');
  // The first chapter begins at the start; flubs are the studio’s own.
  expect(item.marks?.map(({ at, name }) => [at, name])).toEqual([
    [0, 'Arrival passage'],
    [rate, 'Note 1'],
  ]);
  const texts = planExport(options({ scope: 'part', marksCsv: true, marksVtt: true })).texts;
  expect(texts.map(({ fileName }) => fileName)).toEqual(['Test_01_Arrival_marks.csv', 'Test_01_Arrival.vtt']);
  expect(texts[0].text).toContain('flub,Flub 1,00:00:10.000');
});

test.each([
  ['mono', 1, 48_000],
  ['stereo', 2, 44_100],
] as const)(
  'a whole part as Broadcast WAV says where it is from (EBU Tech 3285): %s',
  async (sides, channels, rateHz) => {
    const { part } = await openFresh('Arrival');
    record(3);
    const format = { ...plainFormat, broadcast: true, channels, rateHz };
    const [{ broadcast }] = planExport(options({ format })).items;
    expect(broadcast).toMatchObject({
      description: 'Test, Arrival',
      timeReference: 0,
      // One line a step of its history: coding, rate, sides, and what made it (EBU R 98).
      codingHistory: expect.stringMatching(
        new RegExp(`^A=PCM,F=${rateHz},M=${sides},T=Parola \\d+\\.\\d+\\.\\d+\\r\\n$`),
      ) as string,
    });
    // Fields of fixed length hold what they are given.
    expect(broadcast?.originator.length).toBeLessThanOrEqual(32);
    expect(broadcast?.originatorReference).toBe(part.id.slice(0, 32));
    // A plain file carries none of it.
    expect(
      planExport(options({ format: { ...format, broadcast: false } })).items[0].broadcast,
    ).toBeUndefined();
  },
);

test('the script has the times its lines are read at', async () => {
  const { part } = await openFresh('Arrival');
  record(10);
  changePart(part.id, {
    script: [
      { id: 'a', text: 'Welcome.' },
      { id: 'b', text: 'Goodbye.' },
    ],
  });
  edit('line', (timeline) => ({
    ...timeline,
    marks: [{ id: 'm', kind: 'line', at: 2 * rate, length: 0, name: 'Line 1', line: 'a' }],
  }));
  const [text] = planExport(options({ script: true })).texts;
  expect(text.text).toMatch(/00:00:02\.000 {2}Welcome\.\n {14}Goodbye\./);
});

test('gain and ceiling are another sound; opening a part again is not', async () => {
  await openFresh('Arrival');
  record(3);
  const part = () => useProject.getState().parts[0];
  const before = soundOf(part());
  expect(sameSound(before, soundOf(part()))).toBe(true);
  edit('gain', (timeline) => withOutput(timeline, { gainDb: 2, dcOffsets: [0, 0], ceiling: null }));
  expect(sameSound(before, soundOf(part()))).toBe(false);
  const louder = soundOf(part());
  closePart();
  expect(sameSound(louder, soundOf(part()))).toBe(true);
  expect(planExport(options()).items[0].sounding.output).toMatchObject({ gainDb: 2 });
});

test('without a project nothing is judged', () => {
  useProject.setState({ project: null });
  expect(judgePart({ measurement: {} as never, jumps: [], reductionDb: 0, framesMeasured: 0 }, [])).toBe(
    null,
  );
  expect(planExport(options()).items).toEqual([]);
});

test('a spec of one’s own is kept under its name, never under that of one which comes along', async () => {
  await openFresh();
  await keepSpec({ ...specNow(), name: 'Guides' });
  await keepSpec({ ...specNow(), name: 'Guides', note: 'later' });
  expect(useSpecLibrary.getState().own.map(({ name, note }) => [name, note])).toEqual([['Guides', 'later']]);
  expect(specNamed('guides')?.note).toBe('later');
  await keepSpec(specNow());
  expect(useNotices.getState().notices.map(({ text }) => text)).toContain(
    '“Dry voice” is one of the specs that come with Parola. Give yours another name, then keep it.',
  );
});
