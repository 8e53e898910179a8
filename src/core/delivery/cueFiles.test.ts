import { findSpec } from '../specs/builtIn';
import { plainFormat, type FileFormat } from '../specs/fileFormat';
import {
  addCharacters,
  addCues,
  changeCharacter,
  changeCues,
  cueSheetOf,
  setCueTime,
} from '../timeline/cueEdits';
import { cuePlacement, placeCueTake } from '../timeline/cueTakes';
import { cueStates } from '../timeline/cueState';
import { cuePage } from '../cues/cuePage';
import { proveCues } from '../cues/cueProof';
import { takesCsv } from '../cues/takesCsv';
import { frameOfTimecode, rates } from '../cues/timecode';
import { readTable } from '../cues/readTable';
import type { Recorded } from '../timeline/overlay';
import type { Sounding } from '../timeline/sounding';
import { emptyTimeline, type Timeline } from '../timeline/timeline';
import { cueFiles, type CueDelivery, type CueTake } from './cueFiles';
import type { PartToDeliver, ProjectToDeliver } from './partFiles';

const rateHz = 48_000;
const seconds = (count: number) => Math.round(count * rateHz);
const spec = findSpec('Podcast mono');
if (!spec) throw new Error('no spec');

const cue = (id: string, from: number, to: number, character: string) => ({
  ...{ id: `cue-${id}`, number: id, from: seconds(from), to: seconds(to), character },
  ...{ text: `<Line> ${id}`, note: '' },
});
const pieces = (source: string, length: number, track: string): Recorded =>
  new Map([[track, [{ kind: 'audio', source, channel: 0, from: 0, length: seconds(length), gainDb: 0 }]]]);

/** Three cues of two characters, each on a track of their own; the second is not recorded. */
function made(): { timeline: Timeline; takes: CueTake[] } {
  let timeline = emptyTimeline(['Old', 'Young']);
  timeline = addCharacters(
    timeline,
    ['Old keeper', 'Young keeper'],
    (() => {
      let count = 0;
      return () => ['old', 'young'][count++];
    })(),
  );
  timeline = changeCharacter(timeline, 'old', { track: 'track-1' });
  timeline = changeCharacter(timeline, 'young', { track: 'track-2' });
  const frame = frameOfTimecode('10:00:00;00', rates['29.97 drop']);
  if ('fault' in frame) throw new Error(frame.fault);
  timeline = setCueTime(timeline, { rate: '29.97 drop', start: frame.frame });
  timeline = addCues(timeline, [cue('1', 2, 4, 'old'), cue('2', 5, 6, 'young'), cue('3', 8, 9, 'young')]);
  const takes: CueTake[] = [
    {
      id: 'a',
      cue: 'cue-1',
      take: 1,
      circled: false,
      startedAt: 1e12,
      from: seconds(1.5),
      recorded: pieces('a', 3, 'track-1'),
    },
    {
      id: 'b',
      cue: 'cue-1',
      take: 2,
      circled: true,
      startedAt: 2e12,
      from: seconds(1.5),
      recorded: pieces('b', 3, 'track-1'),
    },
    {
      id: 'c',
      cue: 'cue-3',
      take: 1,
      circled: false,
      startedAt: 3e12,
      from: seconds(7.5),
      recorded: pieces('c', 2.5, 'track-2'),
    },
  ];
  for (const take of takes) {
    const one = cueSheetOf(timeline).cues.find(({ id }) => id === take.cue);
    if (one) timeline = placeCueTake(timeline, take.recorded, cuePlacement(one, seconds(0.5), seconds(1)));
  }
  return { timeline, takes };
}

const format: FileFormat = { ...plainFormat, container: 'wav', encoding: 'pcm24', rateHz: 44_100 };
const project: ProjectToDeliver = {
  ...{ name: 'Lamp House', spec, createdAt: 5e11, date: '2026-11-27', sources: [] },
  settings: { joins: { joinMs: 10 } as never, rateHz },
};
const files = (delivery: Partial<CueDelivery>) => {
  const { timeline, takes } = made();
  const part: PartToDeliver = {
    ...{ id: 'part', name: 'Talk', script: [], number: 1, of: 1, timeline, selection: null },
  };
  const naming = '{part}_{cue}_{character}_{take}_{in}';
  return cueFiles(part, project, takes, { what: 'cues', takes: 'chosen', format, naming, ...delivery });
};
/** Takes that a sounding has anything of. */
const heardSources = ({ tracks }: Sounding) =>
  tracks.flatMap(({ pieces: all, strip }) =>
    strip?.levelDb === -Infinity
      ? []
      : all.flatMap((piece) => (piece.kind === 'audio' ? [piece.source] : [])),
  );

/**
 * Samples of the file from midnight to 10:00:00;00 at 29.97 drop: ten hours of 107,892 pictures (ST 12-1),
 * each 1001/30000 s.
 */
const tenHours = Math.round((10 * 107_892 * 1001 * 44_100) / 30_000);

describe('files of cues', () => {
  test('each recorded cue has one of what is heard, named and placed on the timecode to the sample', () => {
    const written = files({});
    expect(written.map(({ fileName }) => fileName)).toEqual([
      'Talk_1_Old-keeper_2_10-00-01-14.wav',
      'Talk_3_Young-keeper_1_10-00-07-14.wav',
    ]);
    expect(written.map(({ range }) => range)).toEqual([
      { from: seconds(1.5), to: seconds(4.5) },
      { from: seconds(7.5), to: seconds(10) },
    ]);
    expect(written.map(({ broadcast }) => broadcast?.timeReference)).toEqual([
      tenHours + 1.5 * 44_100,
      tenHours + 7.5 * 44_100,
    ]);
    expect(written[0].broadcast).toMatchObject({
      description: 'Lamp House, Talk, cue 1, Old keeper, take 2',
      recordedAt: 2e12,
    });
    // The other voice is in none of them.
    expect(written.map(({ sounding }) => heardSources(sounding))).toEqual([['b'], ['c']]);
  });

  test('all takes, or those that are circled, are written as they were recorded', () => {
    expect(files({ takes: 'all' }).map(({ fileName }) => fileName)).toEqual([
      'Talk_1_Old-keeper_1_10-00-01-14.wav',
      'Talk_1_Old-keeper_2_10-00-01-14.wav',
      'Talk_3_Young-keeper_1_10-00-07-14.wav',
    ]);
    const [circled, ...more] = files({ takes: 'circled' });
    expect(more).toEqual([]);
    expect(circled.range).toEqual({ from: 0, to: seconds(3) });
    expect(circled.broadcast?.timeReference).toBe(tenHours + 1.5 * 44_100);
  });

  test('a character, or a track, is one file from the beginning of the picture on', () => {
    const characters = files({ what: 'characters' });
    expect(characters.map(({ fileName }) => fileName)).toEqual([
      'Talk_Old-keeper_10-00-00-00.wav',
      'Talk_Young-keeper_10-00-00-00.wav',
    ]);
    expect(characters.map(({ broadcast }) => broadcast?.timeReference)).toEqual([tenHours, tenHours]);
    expect(characters[0].range).toEqual({ from: 0, to: seconds(10) });
    expect(characters.map(({ sounding }) => heardSources(sounding))).toEqual([['b'], ['c']]);
    expect(files({ what: 'tracks' }).map(({ fileName }) => fileName)).toEqual([
      'Talk_Old_10-00-00-00.wav',
      'Talk_Young_10-00-00-00.wav',
    ]);
  });

  test('another container says nothing of its place', () => {
    const [file] = files({ format: { ...format, container: 'flac' } });
    expect(file.fileName.endsWith('.flac')).toBe(true);
    expect(file.broadcast).toBeUndefined();
  });
});

describe('lists of cues', () => {
  test('takes as CSV: read again by its own columns', () => {
    const { timeline } = made();
    const known = { loudnessLufs: -20.04, peakDbfs: -3.14, late: 0.0604, long: null, note: '=1+1' };
    const csv = takesCsv(cueSheetOf(timeline), rateHz, [
      { cue: 'cue-3', take: 1, from: seconds(7.5), to: seconds(10), circled: true, heard: true, ...known },
      { cue: 'cue-1', take: 2, from: seconds(1.5), to: seconds(4.5), circled: false, heard: false, ...known },
    ]);
    const { rows } = readTable(csv);
    expect(rows[0].slice(0, 6)).toEqual(['Cue', 'Character', 'Take', 'In', 'Out', 'Length (s)']);
    expect(rows[1].slice(0, 6)).toEqual(['1', 'Old keeper', '2', '10:00:01;14', '10:00:04;14', '3']);
    expect(rows[2]).toEqual([
      ...['3', 'Young keeper', '1', '10:00:07;14', '10:00:09;29', '2.5', '-20', '-3.1', '0.06', ''],
      ...['circled', 'heard', '=1+1'],
    ]);
  });

  test('a page to print has every cue, whatever its words are', () => {
    const { timeline } = made();
    const done = changeCues(timeline, new Set(['cue-1']), () => ({ done: true }));
    const page = cuePage('Talk & more', cueSheetOf(done), cueStates(done), rateHz);
    expect(page).toContain('<h1>Talk &amp; more</h1>');
    expect(page.match(/<tr>/g)).toHaveLength(4);
    expect(page).toContain('&lt;Line&gt; 2');
    expect(page).not.toContain('<Line>');
    expect(page.match(/✓/g)).toHaveLength(1);
  });
});

test('a proof of cues names what a client would send back, in order of time', () => {
  const { timeline } = made();
  const sheet = {
    ...cueSheetOf(timeline),
    cues: [
      cue('1', 2, 4, 'old'),
      cue('2', 3.5, 6, 'old'),
      cue('3', 8, 9, 'old'),
      cue('4', 10, 11, 'old'),
      cue('5', 12, 13, 'young'),
    ],
  };
  const fine = { clippedSamples: 0, overSeconds: 0 };
  const faults = proveCues(
    sheet,
    new Map([
      ['cue-1', { ...fine, loudnessLufs: -20 }],
      ['cue-2', { ...fine, loudnessLufs: -16.25, clippedSamples: 3 }],
      ['cue-3', { ...fine, loudnessLufs: -20.5, overSeconds: 0.4 }],
      ['cue-4', { ...fine, loudnessLufs: -19.9, overSeconds: 0.05 }],
    ]),
  );
  expect(faults.map(({ cue: { number }, text }) => `${number} ${text}`)).toEqual([
    '1 runs into cue 2 of the same character',
    '2 has clipped samples: record it again, softer',
    '2 is 3.7 LU louder than the character’s other cues',
    '3 goes on 0.4 s after its end',
    '5 is not recorded',
  ]);
  expect(proveCues({ ...sheet, cues: [] }, new Map())).toEqual([]);
});
