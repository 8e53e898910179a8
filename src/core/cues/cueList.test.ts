import { seededRandom } from '../base/random';
import { seeds } from '../testing/seeds';
import { emptyCueSheet, type Cue, type CueSheet } from '../timeline/cues';
import { captionsOf, readCaptions } from './captions';
import { guessColumns } from './cueColumns';
import { cueCsv } from './cueCsv';
import { guessStart, readCues, type CueReading } from './cueList';
import { readTable, textOf } from './readTable';
import { audioFrameOf, rateNames, rates } from './timecode';

const rateHz = 48_000;
const second = rateHz;
const bytes = (text: string) => new TextEncoder().encode(text);

/** What is read of a list as it is guessed to be. */
function read(text: string, changes: Partial<CueReading> = {}) {
  const table = readTable(text);
  const guess = guessColumns(table);
  return { guess, ...readCues(table, { ...guess, time: { rate: '25', start: 0 }, rateHz, ...changes }) };
}

const plain = [
  'Number,In,Out,Character,Text,Note',
  '1,00:00:02:00,00:00:04:12,Old keeper,You felt it before you saw it.,',
  '2,00:00:05:00,00:00:06:00,Young keeper,"Every stone, of it.",dry',
].join('\n');
const wanted = [
  { number: '1', from: 2 * second, to: 4 * second + (12 * second) / 25, character: 'Old keeper' },
  {
    number: '2',
    from: 5 * second,
    to: 6 * second,
    character: 'Young keeper',
    text: 'Every stone, of it.',
    note: 'dry',
  },
];

describe('lists as spreadsheets write them (RFC 4180 and what they make of it, *common practice*)', () => {
  test.each([
    ['line feeds', plain],
    ['carriage returns and line feeds', plain.replaceAll('\n', '\r\n')],
    ['carriage returns alone', plain.replaceAll('\n', '\r')],
    ['a mark of UTF-8 before it', `\uFEFF${plain}`],
    ['empty lines and blanks in between', plain.replaceAll('\n', '\n\n ,,,,,\n')],
    ['tabs', plain.replace('"Every stone, of it."', 'Every stone, of it.').replace(/,(?! )/g, '\t')],
    ['semicolons', plain.replace('"Every stone, of it."', 'Every stone, of it.').replace(/,(?! )/g, ';')],
    [
      'everything in quotes',
      plain
        .replaceAll('"', '')
        .replace('stone, of', 'stone§ of')
        .split('\n')
        .map((line) =>
          line
            .split(',')
            .map((cell) => `"${cell.replace('§', ',')}"`)
            .join(','),
        )
        .join('\n'),
    ],
  ])('%s', (_, text) => {
    const { cues, faults } = read(text);
    expect(faults).toEqual([]);
    expect(cues).toMatchObject(wanted);
  });

  test('quotes in quotes, lines in quotes, and what would be a formula', () => {
    const { cues } = read(
      'In,Out,Text\n0:01,0:02,"He said ""no"",\nand went."\n0:03,0:04,\'=not a sum\n0:05,0:06,"\'s end"',
    );
    expect(cues.map(({ text }) => text)).toEqual(['He said "no", and went.', '=not a sum', "'s end"]);
  });

  test('UTF-8, UTF-16 and Windows-1252 are told apart', () => {
    const text = 'Text;In\nGrüße – „ja“;0:01';
    const utf16 = new Uint8Array(2 + 2 * text.length);
    utf16.set([0xff, 0xfe]);
    for (let i = 0; i < text.length; i++)
      utf16.set([text.charCodeAt(i) & 255, text.charCodeAt(i) >> 8], 2 + 2 * i);
    // Windows-1252 (WHATWG Encoding): ü fc, ß df, – 96, „ 84, “ 93.
    const special: Record<string, number> = { ü: 0xfc, ß: 0xdf, '–': 0x96, '„': 0x84, '“': 0x93 };
    const windows = Uint8Array.from(text, (letter) => special[letter] ?? letter.charCodeAt(0));
    for (const encoded of [bytes(text), utf16, windows])
      expect(textOf(encoded).replace(/^\uFEFF/, '')).toBe(text);
  });

  test('what is no text is refused, and so is nothing', () => {
    expect(() => textOf(Uint8Array.from([82, 73, 70, 70, 0, 1, 2]))).toThrow('no text');
    expect(() => readTable('\n \n')).toThrow('nothing in this list');
    expect(() => readTable('a,b\n'.repeat(50_001))).toThrow(/50001 rows/);
  });
});

describe('columns are guessed', () => {
  test('by their names, in any order and language', () => {
    const { guess, cues } = read('Anmerkung;Figur;Bis;Text;Von;Nr.\nleise;Ada;0:03;Hallo.;0:01;7');
    expect(guess.meanings).toEqual(['note', 'character', 'out', 'text', 'in', 'number']);
    expect(cues).toMatchObject([
      { number: '7', from: second, to: 3 * second, character: 'Ada', text: 'Hallo.', note: 'leise' },
    ]);
  });

  test('by what is in them where they have no names', () => {
    const rows = Array.from({ length: 12 }, (_, i) => {
      const at = (frame: number) => `10:00:${String(10 + 3 * i).padStart(2, '0')}:0${frame}`;
      return `${i % 2 ? 'Ben' : 'Ada'},This is what is said in line ${i}.,${i + 1},${at(5)},${at(0)}`;
    });
    const { guess, cues, faults } = read(rows.join('\n'));
    expect(guess).toEqual({
      hasHeader: false,
      meanings: ['character', 'text', 'number', 'out', 'in'],
      times: 'timecode',
    });
    expect(faults).toEqual([]);
    expect(cues).toHaveLength(12);
  });

  test('seconds, minutes and seconds, and timecode are told apart', () => {
    expect(read('in,out,text\n1.5,3,a\n62.25,70,b').guess.times).toBe('seconds');
    expect(read('in,out,text\n1.5,3,a\n62.25,70,b').cues[1].from).toBe(62.25 * second);
    expect(read('in;out;text\n1,5;3;a\n62,25;70;b').cues[1].from).toBe(62.25 * second);
    expect(read('in,out,text\n0:01.5,0:03,a\n1:02:03.25,1:02:04,b').guess.times).toBe('clock');
    expect(read('in,out,text\n0:01.5,0:03,a\n1:02:03.25,1:02:04,b').cues[1].from).toBe(3723.25 * second);
  });

  test('the hour a picture begins at is found', () => {
    const table = readTable('In,Text\n10:00:05:00,a\n11:30:00:00,b');
    const reading = { ...guessColumns(table), time: { rate: '25', start: 0 } as const };
    expect(guessStart(table, reading)).toBe(10 * 3600 * 25);
    const { cues } = readCues(table, {
      ...reading,
      time: { rate: '25', start: guessStart(table, reading) },
      rateHz,
    });
    expect(cues[0].from).toBe(5 * second);
  });
});

test('what cannot be read is told row by row with the reason; the rest is there', () => {
  const { cues, faults } = read(
    [
      'No,In,Out,Text',
      '1,10:00:01:00,10:00:02:00,fine',
      '2,10:00:04:00,10:00:03:00,turned round',
      '3,10:00:05:30,10:00:06:00,no such frame',
      '4,,10:00:07:00,no beginning',
      '5,09:59:00:00,10:00:01:00,before',
      '6,soon,10:00:09:00,words',
      '7,10:00:10:00,10:00:10:00,no length',
      '8,10:00:11:00,10:00:12:00,fine too',
    ].join('\n'),
    { time: { rate: '25', start: 900_000 } },
  );
  expect(cues.map(({ number }) => number)).toEqual(['1', '8']);
  expect(faults.map(({ row, reason }) => [row, reason])).toEqual([
    [3, 'it ends before it begins'],
    [4, '“10:00:05:30” has frame 30, but at 25 they end with 24'],
    [5, 'it has no beginning'],
    [6, '“09:59:00:00” is before the picture begins'],
    [7, expect.stringContaining('“soon” is no timecode')],
    [8, 'it ends where it begins'],
  ]);
  // Nothing is lost: the row is there as it was.
  expect(faults[0].cells).toEqual(['2', '10:00:04:00', '10:00:03:00', 'turned round']);
});

test('drop-frame numbers that do not exist are told', () => {
  const { faults } = read('In,Text\n00:01:00;00,a\n00:02:00;02,b', {
    time: { rate: '29.97 drop', start: 0 },
  });
  expect(faults).toMatchObject([{ row: 2, reason: expect.stringContaining('does not exist') as string }]);
});

test('ends that are not told come from the next cue or from the number of words; lengths are added', () => {
  const { cues } = read(
    'In,Text\n0:01,one two three four five six seven eight nine ten\n0:20,one two three four five\n0:21,Yes',
  );
  expect(cues.map(({ from, to }) => (to - from) / second)).toEqual([4, 1, 1]);
  expect(read('In,Length,Text\n0:01,2.5,a').cues[0].to).toBe(3.5 * second);
  expect(read('In,Length,Text\n00:00:01:00,00:00:00:05,a').cues[0].to).toBe(1.2 * second);
});

test('ten thousand rows, and a text of five thousand letters', () => {
  const long = 'word '.repeat(1000).trim();
  const rows = Array.from(
    { length: 10_000 },
    (_, i) => `${i + 1},${i},${i + 0.5},${i === 5000 ? long : 'Line'}`,
  );
  const { cues, faults } = read(['number,in,out,text', ...rows].join('\n'));
  expect(faults).toEqual([]);
  expect(cues).toHaveLength(10_000);
  expect(cues[5000].text).toBe(long);
});

describe('written and read again', () => {
  const sheetOf = (seed: number, rate: CueSheet['rate']): CueSheet => {
    const random = seededRandom(seed);
    let at = 0;
    const cues = Array.from({ length: 30 }, (_, i): Cue => {
      at += 1 + Math.floor(100 * random());
      const from = audioFrameOf(at, rates[rate], rateHz);
      at += 1 + Math.floor(100 * random());
      return {
        ...{ id: `c${i}`, number: `${i + 1}`, from, to: audioFrameOf(at, rates[rate], rateHz) },
        character: i % 2 ? 'a' : 'b',
        text: ['Plain.', 'With, comma; and "quotes"', '=1+1', '- dash', 'Ünïcödé', 'a\tb'][i % 6],
        note: i % 3 ? '' : 'slow',
        ...(i % 5 === 0 && { done: true as const }),
      };
    });
    return {
      ...emptyCueSheet,
      rate,
      start: 3600 * rates[rate].count,
      cues,
      characters: [
        { id: 'a', name: 'Ada' },
        { id: 'b', name: 'Ben' },
      ],
    };
  };

  test.each(rateNames)('as CSV at %s, to the frame', (rate) => {
    for (const seed of seeds(3)) {
      const sheet = sheetOf(seed, rate);
      const { cues, faults } = read(cueCsv(sheet, rateHz), { time: sheet });
      expect(faults).toEqual([]);
      expect(cues).toEqual(
        sheet.cues.map(({ id: _, character, ...cue }) => ({
          ...cue,
          text: cue.text,
          character: character === 'a' ? 'Ada' : 'Ben',
        })),
      );
    }
  });

  test.each(['vtt', 'srt'] as const)('as %s, to the millisecond', (form) => {
    const sheet = sheetOf(7, '24');
    const text = captionsOf(sheet.cues, form, rateHz, ({ character }) => (character === 'a' ? 'Ada' : 'Ben'));
    const { cues, faults } = readCaptions(text, rateHz);
    expect(faults).toEqual([]);
    expect(cues).toHaveLength(30);
    cues.forEach((cue, i) => {
      expect(Math.abs(cue.from - sheet.cues[i].from)).toBeLessThanOrEqual(rateHz / 2000 + 1);
      expect(cue.text).toBe(sheet.cues[i].text.replace(/\s+/g, ' '));
      if (form === 'vtt') expect(cue.character).toBe(i % 2 ? 'Ada' : 'Ben');
    });
  });
});

describe('captions', () => {
  test('of other makers: hours left out, settings, tags, identifiers, notes, any ends of lines', () => {
    const vtt =
      'WEBVTT - made by hand\r\n\r\nNOTE not a cue\r\n\r\nintro\r\n00:01.500 --> 00:03.000 align:start\r\n<v.loud Ada>Hello <i>there</i> &amp; then\r\nagain\r\n\r\n00:04.000 --> 00:05.000\r\nYes\r\n';
    expect(readCaptions(vtt, rateHz).cues).toMatchObject([
      {
        number: 'intro',
        from: 1.5 * second,
        to: 3 * second,
        character: 'Ada',
        text: 'Hello there & then again',
      },
      { number: '2', text: 'Yes' },
    ]);
    const srt = '1\r00:00:01,000 --> 00:00:02,500\rOne\rtwo\r\r2\r00:00:03,000 --> 00:00:04,000\rThree';
    expect(readCaptions(srt, rateHz).cues).toMatchObject([
      { number: '1', text: 'One two' },
      { number: '2', text: 'Three' },
    ]);
  });

  test('what cannot be read is told with its line, and what is none is refused', () => {
    const { cues, faults } = readCaptions(
      '1\n00:00:99,000 --> soon\nOne\n\n2\n00:00:05,000 --> 00:00:04,000\nTwo\n\n3\n00:00:06,000 --> 00:00:07,000\nThree',
      rateHz,
    );
    expect(cues).toHaveLength(1);
    expect(faults.map(({ row, reason }) => [row, reason.slice(0, 24)])).toEqual([
      [2, 'its times cannot be read'],
      [6, 'it ends before it begins'],
    ]);
    expect(() => readCaptions('Dear diary', rateHz)).toThrow('no captions');
  });
});
