import { splitIntoLines } from './base/text';
import { formatBytes, formatDb, formatTime } from './base/units';
import { fillTemplate, safeName, unknownFields, withoutCollisions } from './formats/fileNames';
import { LevelColumnReader } from './loudness/levels';
import { Meter } from './loudness/measure';
import { findPauses } from './speech/pauses';
import { describeSpec } from './specs/describe';
import { builtInSpecs, findSpec } from './specs/builtIn';
import { specSchema, type Spec } from './specs/spec';
import { judge, passes } from './specs/verdicts';
import { concat, noise } from './testing/signals';

describe('what the screen shows', () => {
  test.each([
    [0, '00:00', '00:00.000'],
    [59.9996, '00:59', '01:00.000'],
    [3725.25, '1:02:05', '1:02:05.250'],
    [-3, '00:00', '00:00.000'],
  ])('%d s', (seconds, short, long) => {
    expect(formatTime(seconds)).toBe(short);
    expect(formatTime(seconds, true)).toBe(long);
  });

  test('levels and sizes', () => {
    expect(formatDb(-18.04)).toBe('−18.0 dB');
    expect(formatDb(-Infinity, 'LUFS')).toBe('−∞');
    expect(formatDb(-0.04)).toBe('0.0 dB');
    expect(formatBytes(999)).toBe('999 B');
    expect(formatBytes(14_200_000)).toBe('14.2 MB');
    expect(formatBytes(4.2e9)).toBe('4.2 GB');
  });
});

describe('script lines', () => {
  test('end where sentences end; paragraphs too; white space is folded', () => {
    const text =
      'Before you climb,  look down. The stair has\r\nninety-four steps!\n\n“Listen.” Is that all?  ';
    expect(splitIntoLines(text)).toEqual([
      'Before you climb, look down.',
      'The stair has',
      'ninety-four steps!',
      '“Listen.”',
      'Is that all?',
    ]);
  });

  test('abbreviations do not end a line, numbers do not either', () => {
    expect(splitIntoLines('Mr. Corran paid 3.50 for it. He left.')).toEqual([
      'Mr. Corran paid 3.50 for it.',
      'He left.',
    ]);
    expect(splitIntoLines(' \n ')).toEqual([]);
  });
});

describe('file names', () => {
  test.each([
    ['The Lamp House', 'The-Lamp-House'],
    ['a/b\\c:d', 'a-b-c-d'],
    ['“Say ‘hi’”', 'Say-hi'],
    ['🎙️ voice?*', '🎙️-voice'],
    ['..', 'untitled'],
    ['CON', 'untitled'],
    ['   ', 'untitled'],
    ['Überfahrt – Stürme', 'Überfahrt-–-Stürme'],
  ])('%s becomes %s', (name, safe) => expect(safeName(name)).toBe(safe));

  test('are numbered with two digits or as many as the parts need, and never too long', () => {
    const name = {
      ...{ project: 'P', number: 7, parts: 9, part: 'Stair', voice: '', take: 'Take 3' },
      ...{ spec: 'Dry voice', date: '2026-11-25', rateHz: 44_100 },
    };
    const template = '{project}_{nn}_{part}';
    expect(fillTemplate(template, name)).toBe('P_07_Stair');
    expect(fillTemplate(template, { ...name, parts: 120 })).toBe('P_007_Stair');
    const long = fillTemplate(template, { ...name, project: 'ß'.repeat(400), part: '語'.repeat(400) });
    expect(Buffer.byteLength(`${long}.flac`)).toBeLessThanOrEqual(255);
    expect(fillTemplate('{spec}: {take} ({rate}) {date}', name)).toBe('Dry-voice-Take-3-(44100)-2026-11-25');
    // A field without a text takes its separator along.
    expect(fillTemplate('{voice}_{part}', name)).toBe('Stair');
    expect(fillTemplate('{project}_{voice}_{n}', name)).toBe('P_7');
    expect(fillTemplate('../{part}/..', { ...name, part: '../../etc' })).toBe('etc');
    expect(fillTemplate('{voice}', name)).toBe('untitled');
    expect(unknownFields('{project}_{chapter}_{nn}')).toEqual(['chapter']);
  });

  test('that would be the same file are made different, whatever the case', () => {
    expect(withoutCollisions(['a.wav', 'A.wav', 'a-2.wav', 'b.mp3'])).toEqual([
      'a.wav',
      'A-2.wav',
      'a-2-2.wav',
      'b.mp3',
    ]);
  });
});

describe('specifications', () => {
  test('the built-in ones are valid, found by any spelling of their names, and described', async () => {
    for (const spec of builtInSpecs)
      await expect(specSchema.validate(spec, { strict: true })).resolves.toEqual(spec);
    expect(findSpec('audiobook-RETAIL')?.name).toBe('Audiobook retail');
    expect(findSpec('none such')).toBeUndefined();
    expect(describeSpec(builtInSpecs[3])).toBe(
      'Loudness −23.5 to −22.5 LUFS; True peak at most −1.0 dBTP; Broadcast WAV · 24-bit · 48 kHz · mono.',
    );
  });

  const changed = (change: (spec: Spec) => void) => {
    const spec = structuredClone(builtInSpecs[0]);
    change(spec);
    return specSchema.validate(spec);
  };

  test('a lowest above the highest is refused with what to do', async () => {
    await expect(changed((spec) => (spec.limits.rmsDbfs = { min: -10, max: -20 }))).rejects.toThrow(
      'RMS: the lowest allowed is above the highest. Swap them or clear one.',
    );
    await expect(changed((spec) => (spec.aimPeakDbfs = { min: -6, max: -18 }))).rejects.toThrow(
      'Aim: the lower edge is above the upper edge',
    );
    await expect(changed((spec) => (spec.file.rateHz = 96_000))).rejects.toThrow('MP3 ends at 48 kHz');
    await expect(changed((spec) => (spec.limits.headSeconds = { min: -1, max: null }))).rejects.toThrow(
      'Head: nothing under 0 s',
    );
    await expect(changed((spec) => (spec.name = '  '))).rejects.toThrow('Give the spec a name.');
  });

  const measured = (rmsDb: number) => {
    const meter = new Meter(48_000, 1);
    meter.process([concat(noise(33_600, -65, 1), noise(480_000, rmsDb, 2), noise(96_000, -65, 3))]);
    return meter.finish();
  };

  test('a verdict says value, limit and distance', () => {
    const verdicts = judge(builtInSpecs[0], measured(-24));
    const rms = verdicts.find(({ measure }) => measure === 'rmsDbfs');
    expect(rms?.passes).toBe(false);
    expect(rms?.distance).toBeCloseTo(2.04, 1);
    expect(rms?.message).toMatch(
      /^RMS −25\.\d dBFS is 2\.\d dB under the lowest allowed \(−23\.0 to −18\.0 dBFS\)$/,
    );
    expect(passes(verdicts)).toBe(false);
    expect(passes(judge(builtInSpecs[0], measured(-20)))).toBe(true);
  });

  test('silence is outside a lower limit by an infinite distance, and its pauses are told to be digital silence', () => {
    const meter = new Meter(48_000, 1);
    meter.process([new Float32Array(48_000)]);
    const verdicts = judge(builtInSpecs[0], meter.finish());
    expect(verdicts.find(({ measure }) => measure === 'rmsDbfs')).toMatchObject({
      passes: false,
      distance: Infinity,
      value: -Infinity,
    });
    expect(verdicts.find(({ measure }) => measure === 'noiseFloorDbfs')?.message).toContain(
      'digital silence',
    );
  });
});

describe('the level column', () => {
  const at60 = (seconds: number) => Array.from({ length: Math.round(seconds * 60) }, (_, i) => i / 60);
  const level = (peakDb: number, clipped = 0) => ({
    peak: 10 ** (peakDb / 20),
    meanSquare: 10 ** ((peakDb - 12) / 10),
    clipped,
  });

  test('holds a peak for 1.5 s', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    reader.read(0, level(-8));
    expect(reader.read(1.4, level(-40)).heldDb).toBeCloseTo(-8);
    expect(reader.read(1.6, level(-40)).heldDb).toBeCloseTo(-40);
  });

  test.each([
    [-70, 'Waiting'],
    [-25, 'Thin'],
    [-10, 'On target'],
    [-4, 'Hot'],
  ])('peaks at %d dBFS are “%s”', (peakDb, word) => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    expect(reader.read(0, level(peakDb)).word).toBe(word);
  });

  test('a muted microphone is told after 3 s, and forgotten with the first sound; a quiet room is no muted one', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    reader.read(0, level(-Infinity));
    expect(reader.read(2.9, level(-Infinity)).word).toBe('Waiting');
    expect(reader.read(3.1, level(-Infinity)).word).toBe('No signal');
    expect(reader.read(3.2, level(-70)).word).toBe('Waiting');
    expect(reader.read(9, level(-75)).word).toBe('Waiting');
  });

  test('a clip stays until it is cleared', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    reader.read(0, level(-1, 3));
    expect(reader.read(60, level(-20, 3))).toMatchObject({ clipped: 3, word: 'Clipped' });
    reader.clearClipped();
    expect(reader.read(61, level(-10, 3))).toMatchObject({ clipped: 0, word: 'On target' });
    expect(reader.read(62, level(-10, 5)).clipped).toBe(2);
  });

  test('tells usual speech from the room', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    let last = reader.read(0, null);
    for (const at of at60(20)) last = reader.read(at, level(Math.floor(at) % 3 === 0 ? -50 : -8));
    expect(last.roomDb).toBeCloseTo(-62, 0);
    expect(last.speechDb).toBeCloseTo(-20, 0);
  });
});

test('pauses are found between stretches of speech, short gaps are not pauses', () => {
  const power = (db: number, count: number) => new Float32Array(count).fill(10 ** (db / 10));
  const levels = concat(
    power(-62, 60),
    power(-20, 100),
    power(-60, 10),
    power(-20, 80),
    power(-61, 90),
    power(-22, 50),
  );
  expect(findPauses(levels, 28)).toEqual([
    { from: 0, to: expect.closeTo(60, -1) as number },
    { from: expect.closeTo(250, -1) as number, to: expect.closeTo(340, -1) as number },
  ]);
});
