import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import Papa from 'papaparse';
import { scratchFolder } from '../testing/signals';
import { marksCsv, marksVtt, scriptWithTimes, tableCsv, type ListedMark } from './markFiles';

const folder = scratchFolder();
const rateHz = 48_000;
const marks: ListedMark[] = [
  { kind: 'note', name: 'A door, then "silence"', at: 0, length: 0 },
  { kind: 'note', name: '=HYPERLINK("x")', at: rateHz, length: rateHz / 2 },
  { kind: 'part', name: 'The lamp <b> & --> on', at: 3600 * rateHz + 24, length: 0 },
];

describe('marks as CSV', () => {
  test('come back from a CSV reader as they are; times have hours, frames are exact', () => {
    const { data } = Papa.parse<Record<string, string>>(marksCsv(marks, rateHz).trim(), { header: true });
    expect(data).toHaveLength(3);
    expect(data[0]).toMatchObject({
      kind: 'note',
      name: 'A door, then "silence"',
      start: '00:00:00.000',
      start_frame: '0',
    });
    expect(data[1]).toMatchObject({ start: '00:00:01.000', end: '00:00:01.500', length_frames: '24000' });
    expect(data[2]).toMatchObject({
      start: '01:00:00.001',
      start_frame: String(3600 * rateHz + 24),
      rate_hz: '48000',
    });
  });

  test('a name is no formula for a spreadsheet', () => {
    expect(marksCsv(marks, rateHz)).toContain(`"'=HYPERLINK(""x"")"`);
    expect(tableCsv([{ file: '+1+A1', level: -3 }])).toBe("file,level\r\n'+1+A1,-3\r\n");
  });

  test.each(['\n=1+1', '\r\n=1+1', ' =1+1', '\t@a', '\u00a0+1+1', '\n\n-1-1'])(
    'not after white space either: %j',
    (file) => {
      const [row] = Papa.parse<{ file: string }>(tableCsv([{ file }]).trim(), { header: true }).data;
      expect(row.file).toBe(`'${file}`);
    },
  );

  test('a name with a line break or a minus in it is let be', () => {
    expect(tableCsv([{ file: 'a\n=1' }])).toBe('file\r\n"a\n=1"\r\n');
    expect(tableCsv([{ file: 'a-1' }])).toBe('file\r\na-1\r\n');
  });

  test('never touch a number, as text or not, positive or negative', () => {
    const row = { a: -23.255, b: '-23.255', c: '+4', d: '-1e-3', e: '-', f: '-1-1', g: '-∞' };
    const [, line] = tableCsv([row]).split('\r\n');
    expect(line).toBe("-23.255,-23.255,+4,-1e-3,'-,'-1-1,'-∞");
  });
});

describe('marks as WebVTT', () => {
  test('are cues in order of time, a point lasting until the next one, or two seconds', () => {
    const shuffled = [marks[2], marks[0], marks[1]];
    const cues = marksVtt(shuffled, rateHz).split('\n\n');
    expect(cues[0]).toBe('WEBVTT');
    expect(cues[1]).toBe('1\n00:00:00.000 --> 00:00:01.000\nA door, then "silence"');
    expect(cues[2]).toBe('2\n00:00:01.000 --> 00:00:01.500\n=HYPERLINK("x")');
    expect(cues[3].trim()).toBe('3\n01:00:00.001 --> 01:00:02.001\nThe lamp &lt;b> &amp; → on');
  });

  test('are read by ffprobe, every one of them', () => {
    const file = `${folder}/marks.vtt`;
    writeFileSync(file, marksVtt(marks, rateHz));
    const text = execFileSync('ffprobe', ['-v', 'error', '-show_packets', '-of', 'json', file], {
      encoding: 'utf8',
    });
    const { packets } = JSON.parse(text) as { packets: { pts_time: string; duration_time: string }[] };
    expect(packets.map((packet) => [Number(packet.pts_time), Number(packet.duration_time)])).toEqual([
      [0, 1],
      [1, 0.5],
      [3600.001, 2],
    ]);
  });

  test('none are an empty file of the format', () => expect(marksVtt([], rateHz)).toBe('WEBVTT\n'));
});

test('a script has the time of each line that was read, and room where it was not', () => {
  expect(
    scriptWithTimes('The stair', [
      { text: 'Welcome.', seconds: 0.75 },
      { text: 'Left out.', seconds: null },
    ]),
  ).toBe('The stair\n\n00:00:00.750  Welcome.\n              Left out.\n');
});
