import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { findSpec } from '@/core/specs/builtIn';
import { noLimits } from '@/core/specs/spec';
import { specToJson } from '@/core/specs/specFile';
import { add, concat, noise, scratchFolder, sine, writeWav } from '@/core/testing/signals';
import { writeSound } from '@/core/testing/soundFiles';
import { measureFile, proofFile, proofsOf, reportOf, tryMeasureFile, type FileProof } from './proofFile';
import { filesOf } from './soundFiles';
import { specFromArgument, specFromText } from './specSource';

const folder = scratchFolder();
const rateHz = 48_000;

function specOf(name: string) {
  const spec = findSpec(name);
  if (!spec) throw new Error(`no spec ${name}`);
  return spec;
}

/** A narrator in a quiet room, as a spec would have it: head, speech at −21 dBFS RMS, tail. */
const narration = () => {
  const speech = concat(
    noise(rateHz * 0.7, -90, 1),
    noise(rateHz * 10, -21, 2),
    noise(rateHz * 1.2, -90, 3),
    noise(rateHz * 8, -21, 4),
    noise(rateHz * 2, -90, 5),
  );
  return add(speech, noise(speech.length, -66, 6)).map((value) => Math.max(-0.5, Math.min(0.5, value)));
};

const verdict = (proof: FileProof, measure: string) =>
  proof.verdicts.find((candidate) => candidate.measure === measure);

test('a good narration passes the audiobook spec, and each number is there with its unit in its name', async () => {
  const file = writeWav(`${folder}/good.wav`, rateHz, [narration()], 'pcm24');
  const proof = await proofFile(file, specOf('Audiobook retail'));
  expect(proof.verdicts.filter(({ passes }) => !passes)).toEqual([]);
  expect(proof).toMatchObject({ file, passes: true, sampleRateHz: 48_000, channels: 1, clippedSamples: 0 });
  expect(proof.headSeconds).toBeCloseTo(0.7, 1);
  expect(proof.tailSeconds).toBeCloseTo(2, 1);
  expect(proof.durationSeconds).toBeCloseTo(21.9, 3);
  expect(Math.abs((proof.noiseFloorDbfs ?? 0) + 66)).toBeLessThan(0.3);
  expect(proof.remarks).toEqual([
    'The sample rate is 48000 Hz; the delivery is MP3 · 192 kbit/s · 44.1 kHz · mono.',
  ]);
});

test.each(['ogg', 'm4a', 'webm'])(
  'a %s file is refused with the name of the file and a reason',
  async (extension) => {
    const file = `${folder}/other.${extension}`;
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=440:d=1', file]);
    expect(await tryMeasureFile(file)).toEqual({
      file,
      code: 'not-audio',
      error: `other.${extension}: This is not a WAV, AIFF, FLAC or MP3 file, or it holds no audio. Choose another one, or save it as one of these.`,
    });
  },
);

test('what is not there, a folder, an empty file: an error object, never an exception', async () => {
  writeFileSync(`${folder}/empty.wav`, '');
  for (const file of [`${folder}/none.wav`, folder, `${folder}/empty.wav`]) {
    expect(await tryMeasureFile(file)).toMatchObject({
      file,
      error: expect.any(String) as string,
    });
  }
});

test('silence is null, and fails what wants a level', async () => {
  const file = writeWav(`${folder}/silent.wav`, rateHz, [new Float32Array(rateHz * 5)]);
  const proof = await proofFile(file, specOf('Podcast mono'));
  expect(proof).toMatchObject({
    integratedLufs: null,
    truePeakDbtp: null,
    rmsDbfs: null,
    noiseFloorDbfs: null,
    passes: false,
  });
  expect(verdict(proof, 'integratedLufs')).toMatchObject({ value: null, distance: null, passes: false });
  expect(verdict(proof, 'truePeakDbtp')).toMatchObject({ value: null, passes: true });
  expect(JSON.parse(JSON.stringify(proof))).toEqual(proof);
});

// LAME lowers a lone tone: ffmpeg's ebur128 reads −23.3 LUFS of that file as well.
test.each([
  ['pcm_s16le', 'wav', -23],
  ['pcm_s24le', 'wav', -23],
  ['pcm_f64le', 'wav', -23],
  ['libmp3lame', 'mp3', -23.26],
])('stereo at −23 LUFS, written by ffmpeg as %s, is Broadcast EU', async (codec, extension, expected) => {
  const tone = sine(rateHz, 20, 1000, -23);
  const wav = writeWav(`${folder}/stereo.wav`, rateHz, [tone, tone]);
  const file = `${folder}/${codec}.${extension}`;
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', wav, '-c:a', codec, '-b:a', '192k', file]);
  const proof = await proofFile(file, specOf('Broadcast EU'));
  expect(Math.abs((proof.integratedLufs ?? 0) - expected)).toBeLessThanOrEqual(0.1);
  expect(proof).toMatchObject({ channels: 2, passes: true });
  expect(Math.abs(proof.durationSeconds - 20)).toBeLessThan(0.001);
});

test('stereo for a mono spec is remarked on; a file that is cut short never passes', async () => {
  const tone = sine(44_100, 5, 1000, -19);
  const whole = readFileSync(writeWav(`${folder}/cut.wav`, 44_100, [tone, tone], 'pcm16'));
  writeFileSync(`${folder}/cut.wav`, whole.subarray(0, whole.length / 2));
  const loose = { ...specOf('Podcast mono'), limits: noLimits };
  const { remarks, durationSeconds, mistake, passes } = await proofFile(`${folder}/cut.wav`, loose);
  expect(durationSeconds).toBeCloseTo(2.5, 2);
  expect({ mistake, passes }).toEqual({
    mistake: 'The file is cut short: it ends before the length its header states.',
    passes: false,
  });
  expect(remarks).toEqual(['The file has 2 channels; the spec wants 1.']);
});

test.each(['float32', 'float64'])(
  'what is infinite or no number is counted, not called silence (%s)',
  async (encoding) => {
    const samples = noise(rateHz, -20, 1);
    samples.set([Infinity, -Infinity, NaN], 100);
    const file = writeWav(`${folder}/infinite.wav`, rateHz, [samples], 'float32');
    if (encoding === 'float64')
      execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', file, '-c:a', 'pcm_f64le', `${folder}/f64.wav`]);
    const measured = encoding === 'float64' ? `${folder}/f64.wav` : file;
    const loose = { ...specOf('Podcast mono'), limits: noLimits };
    const { mistake, passes, samplePeakDbfs } = await proofFile(measured, loose);
    expect(mistake).toMatch(/^The file holds 3 samples that are infinite or no numbers at all/);
    expect(passes).toBe(false);
    expect(samplePeakDbfs).toBeLessThan(0);
  },
);

test('peaks at the limits: −3.0 dBFS passes, −2.9 does not, and −12.1 is too soft for Dry voice', async () => {
  for (const [peak, passes] of [
    [-3, true],
    [-2.9, false],
    [-12, true],
    [-12.1, false],
  ] as [number, boolean][]) {
    const file = writeWav(`${folder}/peak.wav`, rateHz, [sine(rateHz, 2, 1000, peak)]);
    expect([peak, verdict(await proofFile(file, specOf('Dry voice')), 'samplePeakDbfs')?.passes]).toEqual([
      peak,
      passes,
    ]);
  }
});

test('an MP3 with a title tag before the audio, or damage in the middle, is measured as far as it goes', async () => {
  const bytes = readFileSync('public/demo/arrival.mp3');
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-i',
    'public/demo/arrival.mp3',
    '-c',
    'copy',
    '-metadata',
    `title=${'x'.repeat(9000)}`,
    `${folder}/tagged.mp3`,
  ]);
  const plain = await proofFile('public/demo/arrival.mp3', specOf('Audiobook retail'));
  const tagged = await proofFile(`${folder}/tagged.mp3`, specOf('Audiobook retail'));
  expect(Math.abs((tagged.integratedLufs ?? 0) - (plain.integratedLufs ?? 0))).toBeLessThan(0.05);
  const damaged = Buffer.from(bytes);
  damaged.fill(0x55, 100_000, 103_000);
  writeFileSync(`${folder}/damaged.mp3`, damaged);
  const result = await proofFile(`${folder}/damaged.mp3`, specOf('Audiobook retail'));
  expect(result.durationSeconds).toBeGreaterThan(20);
});

const toneSteps = (...steps: [level: number, seconds: number][]) =>
  concat(...steps.map(([level, seconds]) => sine(rateHz, seconds, 1000, level)));

// EBU Tech 3341 v3 (integrated) and 3342 (loudness range), values from memory; tolerances ±0.1 LU and ±1 LU.
const tech: [string, Float32Array, 'integratedLufs' | 'loudnessRangeLu', number, number][] = [
  ['3341 case 1', toneSteps([-23, 20]), 'integratedLufs', -23, 0.1],
  ['3341 case 2', toneSteps([-33, 20]), 'integratedLufs', -33, 0.1],
  ['3341 case 3', toneSteps([-36, 10], [-23, 60], [-36, 10]), 'integratedLufs', -23, 0.1],
  [
    '3341 case 4',
    toneSteps([-72, 10], [-36, 10], [-23, 60], [-36, 10], [-72, 10]),
    'integratedLufs',
    -23,
    0.1,
  ],
  ['3341 case 5', toneSteps([-26, 20], [-20, 20.1], [-26, 20]), 'integratedLufs', -23, 0.1],
  ['3342 case 1', toneSteps([-20, 20], [-30, 20]), 'loudnessRangeLu', 10, 1],
  ['3342 case 2', toneSteps([-20, 20], [-15, 20]), 'loudnessRangeLu', 5, 1],
  ['3342 case 3', toneSteps([-40, 20], [-20, 20]), 'loudnessRangeLu', 20, 1],
  ['3342 case 4', toneSteps([-50, 20], [-35, 20], [-20, 20], [-35, 20], [-50, 20]), 'loudnessRangeLu', 15, 1],
];

test.each([
  ...tech.map((row) => [...row, 'wav', { container: 'wav', encoding: 'pcm16' }] as const),
  ...[tech[0], tech[5]].flatMap((row) => [
    [...row, 'aif', { container: 'aiff', encoding: 'pcm24' }] as const,
    [...row, 'mp3', { container: 'mp3', encoding: 'pcm16', bitRateKbps: 256 }] as const,
  ]),
])('EBU Tech %s through a written file', async (_, tone, measure, expected, tolerance, ending, format) => {
  const file = await writeSound(`${folder}/tech.${ending}`, [tone, tone], format);
  const proof = await proofFile(file, specOf('Broadcast EU'));
  expect(Math.abs((proof[measure] ?? NaN) - expected)).toBeLessThanOrEqual(tolerance);
});

describe('files that are delivered together', () => {
  const delivery = `${folder}/delivery`;
  beforeAll(async () => {
    mkdirSync(`${delivery}/more`, { recursive: true });
    const voice = narration();
    await writeSound(`${delivery}/2 second.flac.wav`, [voice], { encoding: 'pcm24' });
    await writeSound(`${delivery}/10 tenth.aif`, [voice.map((sample) => sample * 0.5)], {
      container: 'aiff',
    });
    await writeSound(`${delivery}/more/last.mp3`, [voice], {
      container: 'mp3',
      encoding: 'pcm16',
      rateHz: 44_100,
    });
    execFileSync('flac', ['-s', '-f', '-o', `${delivery}/1 first.flac`, `${delivery}/2 second.flac.wav`]);
    writeFileSync(`${delivery}/notes.txt`, 'not sound');
  });

  test('a folder is all the sound in it, in the order of its numbers', async () => {
    const { files, problems } = await filesOf([delivery, `${delivery}/none.wav`]);
    expect(files.map(({ name }) => name.slice(delivery.length + 1))).toEqual([
      '1 first.flac',
      '2 second.flac.wav',
      '10 tenth.aif',
      'more/last.mp3',
    ]);
    expect(problems.map(({ name }) => name.slice(delivery.length + 1))).toEqual(['none.wav']);
  });

  test('lossless formats measure the same to the last digit; one that differs from the others is told', async () => {
    const measured = await Promise.all(
      (await filesOf([delivery])).files.map(({ path }) => measureFile(path)),
    );
    const [first, second, tenth, last] = proofsOf(measured, specOf('Dry voice'));
    expect({ ...first, file: '', kind: '', bytes: 0, sha256: '', remarks: [] }).toEqual({
      ...second,
      ...{ file: '', kind: '', bytes: 0, sha256: '', remarks: [] },
    });
    expect(tenth.looks.map(({ kind }) => kind)).toEqual(['uneven']);
    expect(tenth.looks[0].message).toMatch(/Speech is [56]\.\d dB softer than in the middle of all parts/);
    expect(last.remarks).toContain('Its sample rate is not that of the other files, 48000 Hz.');
    // White noise has more above 16 kHz, where MP3 leaves off, than any voice.
    expect(Math.abs((last.integratedLufs ?? 0) - (first.integratedLufs ?? 0))).toBeLessThan(1);
  });

  test('the report has the checksum sha256sum gives', async () => {
    const file = `${delivery}/10 tenth.aif`;
    const report = reportOf('Delivery', [await measureFile(file)], specOf('Audiobook retail'));
    const [sum] = execFileSync('sha256sum', [file], { encoding: 'utf8' }).split(' ');
    expect(report.files[0]).toMatchObject({ fileName: '10 tenth.aif', sha256: sum, mistake: null });
  });

  test('a spec can be a file of its own', async () => {
    const own = { ...specOf('Dry voice'), name: 'Mine' };
    writeFileSync(`${folder}/mine.json`, specToJson(own));
    expect((await specFromArgument(`${folder}/mine.json`)).name).toBe('Mine');
    expect(specFromText(specToJson(own), '').name).toBe('Mine');
    await expect(specFromArgument(`${folder}/none.json`)).rejects.toThrow('There is no spec file');
    expect(() => specFromText('Nothing', '')).toThrow('There is no spec “Nothing”. Known: Audiobook retail');
    expect(() => specFromText(' ', 'Add ?spec=NAME.')).toThrow('Add ?spec=NAME. Known:');
  });
});
