import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { Uint8ArrayReader, Uint8ArrayWriter, ZipReader, ZipWriter } from '@zip.js/zip.js';
import type { ExportedFile } from '@/node/exportProject';
import { manifestVersion } from '@/core/formats/projectManifest';
import { findSpec } from '@/core/specs/builtIn';
import { ffmpegChannels } from '@/core/testing/soundFiles';
import { byHand, putTogether } from './testing/command';
import { decodeWithFfmpeg, firstDifference, noise, scratchFolder, writeWav } from '@/core/testing/signals';

const folder = scratchFolder();
const rateHz = 48_000;

const { run, remove } = putTogether('export');
afterAll(remove);

const exported = (...args: string[]) => {
  const { status, stdout, stderr } = run(...args, '--json');
  if (stdout === '') throw new Error(stderr);
  return { status, files: JSON.parse(stdout) as (ExportedFile & { error?: string })[] };
};

/** Multiples of 2^-15, no −0: the same numbers in every coding of 16 bits or more. */
const coarse = (samples: Float32Array) => samples.map((value) => (Math.round(value * 32_768) + 0) / 32_768);
const voices = [coarse(noise(3 * rateHz, -23, 1)), coarse(noise(3 * rateHz, -29, 2))];

const piece = (source: string, from: number, length: number) => ({
  ...{ kind: 'audio', source, channel: 0, from, length, gainDb: 0 },
});
const part = (id: string, name: string, tracks: object[]) => ({
  ...{ id, name, script: [], currentLine: 0, caret: 0, historyAt: 0, history: [] },
  timeline: { tracks, marks: [], struck: [], places: [] },
});
/** Two parts: two voices over each other, and a passage of one of them. */
const manifest = {
  format: 'parola-project',
  version: manifestVersion,
  project: { name: 'Ferry', spec: findSpec('Dry voice'), rateHz, createdAt: 1, joinMs: 10 },
  parts: [
    part('p1', 'Crossing', [
      { id: 'track-1', name: 'Ada', pieces: [piece('s1', 0, 3 * rateHz)] },
      { id: 'track-2', name: 'Ben', pieces: [piece('s2', 0, 3 * rateHz)] },
    ]),
    part('p2', 'Landing', [{ id: 'track-1', name: 'Ada', pieces: [piece('s1', 24_000, 72_000)] }]),
    part('p3', 'Not recorded', [{ id: 'track-1', name: 'Ada', pieces: [] }]),
  ],
  sources: voices.map((samples, index) => ({
    ...{
      id: `s${index + 1}`,
      partId: 'p1',
      trackId: `track-${index + 1}`,
      take: 1,
      name: `Take ${index + 1}`,
    },
    ...{
      rateHz,
      channels: 1,
      frames: samples.length,
      handleFrames: 0,
      startedAt: 1,
      overrunFrames: 0,
      input: 'x',
    },
  })),
};

async function projectFile(name: string, level: number, content: object = manifest): Promise<string> {
  const writer = new ZipWriter(new Uint8ArrayWriter(), { level, useWebWorkers: false });
  await writer.add('parola.json', new Uint8ArrayReader(Buffer.from(JSON.stringify(content))));
  for (const [index, samples] of voices.entries()) {
    const wav = `${folder}/source-${index}.wav`;
    writeWav(wav, rateHz, [samples]);
    await writer.add(`sources/s${index + 1}.wav`, new Uint8ArrayReader(readFileSync(wav)));
  }
  const file = `${folder}/${name}`;
  writeFileSync(file, await writer.close());
  return file;
}

let project = '';
beforeAll(async () => {
  project = await projectFile('ferry.parola', 0);
});

test('all parts are written as their spec wants, and are what was recorded, to ffmpeg', () => {
  const out = `${folder}/all`;
  const { files } = exported(project, '--out', out);
  expect(files.map(({ file, part: name }) => [file, name])).toEqual([
    [`${out}/Ferry_01_Crossing.wav`, 'Crossing'],
    [`${out}/Ferry_02_Landing.wav`, 'Landing'],
  ]);
  const landing = decodeWithFfmpeg(files[1].file);
  expect(firstDifference(landing, voices[0].slice(24_000, 96_000))).toBe(-1);
  const [ada, ben] = voices;
  expect(
    firstDifference(
      decodeWithFfmpeg(files[0].file),
      ada.map((value, i) => value + ben[i]),
    ),
  ).toBe(-1);
  expect(files[1]).toMatchObject({ frames: 72_000, sampleRateHz: rateHz, channels: 1, mistake: null });
  expect(readdirSync(out)).toHaveLength(2);
});

test('what is measured is what ffmpeg measures of the file (ebur128), and its checksum that of sha256sum', () => {
  const { files } = exported(project, '--out', `${folder}/measured`, '--part', '1');
  const [{ file, integratedLufs, sha256 }] = files;
  const { stderr } = spawnSync('ffmpeg', ['-nostats', '-i', file, '-af', 'ebur128', '-f', 'null', '-'], {
    encoding: 'utf8',
  });
  const theirs = Number(/I:\s+(-[\d.]+) LUFS\s+Threshold/.exec(stderr)?.[1]);
  expect(Math.abs((integratedLufs ?? 0) - theirs)).toBeLessThanOrEqual(0.1);
  expect(spawnSync('sha256sum', [file], { encoding: 'utf8' }).stdout.split(' ')[0]).toBe(sha256);
});

test('a guide is in no file by itself; asked for, it stands on the left and the voice on the right', async () => {
  const [crossing] = manifest.parts;
  const spoken = {
    ...crossing,
    timeline: {
      ...crossing.timeline,
      tracks: [crossing.timeline.tracks[0]],
      guides: [{ id: 'g', name: 'Statement', pieces: [piece('s2', 0, 3 * rateHz)] }],
    },
  };
  const file = await projectFile('guided.parola', 0, { ...manifest, parts: [spoken] });
  const plain = exported(file, '--out', `${folder}/plain`).files;
  expect(plain.map(({ channels }) => channels)).toEqual([1]);
  expect(firstDifference(decodeWithFfmpeg(plain[0].file), voices[0])).toBe(-1);
  const { files } = exported(file, '--out', `${folder}/beside`, '--what', 'beside');
  expect(files.map((one) => one.file)).toEqual([`${folder}/beside/Ferry_01_Crossing-beside-the-guide.wav`]);
  const [left, right] = ffmpegChannels(files[0].file, 2);
  expect(firstDifference(left, voices[1])).toBe(-1);
  expect(firstDifference(right, voices[0])).toBe(-1);
});

test('each voice alone, and any format', () => {
  const out = `${folder}/each`;
  const { files } = exported(project, '--out', out, '--part', '1', '--what', 'each', '--format', 'flac');
  expect(files.map(({ file }) => file)).toEqual([
    `${out}/Ferry_01_Crossing-Ada.flac`,
    `${out}/Ferry_01_Crossing-Ben.flac`,
  ]);
  files.forEach(({ file }, index) => {
    // -w makes an unset checksum an error as well.
    expect(spawnSync('flac', ['-s', '-t', '-w', file]).status).toBe(0);
    expect(firstDifference(decodeWithFfmpeg(file), voices[index])).toBe(-1);
  });
  for (const format of ['wav16', 'wav32f', 'aiff', 'mp3']) {
    const { files: one } = exported(
      project,
      '--out',
      `${folder}/${format}`,
      '--part',
      '2',
      '--format',
      format,
    );
    expect(one[0]).toMatchObject({ frames: one[0].sampleRateHz * 1.5, mistake: null });
    expect(decodeWithFfmpeg(one[0].file)).toHaveLength(one[0].frames);
  }
});

test('a specification that wants Opus is told where it is written', async () => {
  const opus = { ...findSpec('Dry voice')?.file, container: 'opus', encoding: 'pcm16', rateHz };
  const wanted = {
    ...manifest,
    project: { ...manifest.project, spec: { ...manifest.project.spec, file: opus } },
  };
  const { status, files } = exported(await projectFile('opus.parola', 0, wanted), '--out', `${folder}/opus`);
  expect(status).toBe(2);
  expect(files[0].error).toMatch(/Ogg Opus is coded by browsers/);
  expect(readdirSync(`${folder}/opus`)).toEqual([]);
});

test('the exit code says whether all pass; what is wrong is told for people too', () => {
  // Noise is no dry voice: its room is as loud as itself.
  const { status, stdout, stderr } = byHand('export', project, '--out', `${folder}/judged`, '--part', '2');
  expect(status).toBe(1);
  expect(stdout).toMatch(/^FAULTS .*Ferry_02_Landing\.wav {2}\(Dry voice\)\n/);
  expect(stdout).toMatch(/ {2}fault /);
  expect(stderr).toMatch(/writing {2}Ferry_02_Landing\.wav/);
});

test('a file that is there is kept, unless it is to be replaced', () => {
  const out = `${folder}/kept`;
  mkdirSync(out);
  writeFileSync(`${out}/Ferry_02_Landing.wav`, 'mine');
  const { status, files } = exported(project, '--out', out);
  expect(status).toBe(2);
  expect(files[0]).toMatchObject({ part: 'Crossing', mistake: null });
  expect(files[1].error).toMatch(/Ferry_02_Landing\.wav: There is a file of this name\. Add --replace/);
  expect(readFileSync(`${out}/Ferry_02_Landing.wav`, 'utf8')).toBe('mine');
  expect(run(project, '--out', out, '--part', '2').stdout).toMatch(
    /^not written {2}Ferry_02_Landing\.wav: There is/,
  );
  expect(exported(project, '--out', out, '--replace').files[1].error).toBeUndefined();
  expect(readFileSync(`${out}/Ferry_02_Landing.wav`, 'latin1').slice(0, 4)).toBe('RIFF');
});

test('an archive that somebody has packed again is read; damaged audio, or none, is refused', async () => {
  const packed = await projectFile('packed.parola', 6);
  const [one] = exported(packed, '--out', `${folder}/packed`, '--part', '2').files;
  expect(firstDifference(decodeWithFfmpeg(one.file), voices[0].slice(24_000, 96_000))).toBe(-1);
  const bytes = readFileSync(project);
  const entries = await new ZipReader(new Uint8ArrayReader(bytes), { useWebWorkers: false }).getEntries();
  const flipped = Buffer.from(bytes);
  flipped[entries[1].offset + 300_000] ^= 1;
  const broken: [string, Buffer, RegExp][] = [
    ['flipped.parola', flipped, /“Take 1” is not what the project file says/],
    ['cut.parola', bytes.subarray(0, -3000), /not a whole project file/],
    ['text.parola', Buffer.from('no project'), /not a whole project file/],
  ];
  for (const [name, damaged, message] of broken) {
    writeFileSync(`${folder}/${name}`, damaged);
    const out = `${folder}/${name}-out`;
    const { status, stdout, stderr } = run(`${folder}/${name}`, '--out', out);
    expect([status, stdout]).toEqual([2, '']);
    expect(stderr).toMatch(message);
    expect(existsSync(out)).toBe(false);
  }
});

test.each([
  [[], /Name one project file/],
  [['none.parola', '--out', 'x'], /There is no project file none\.parola/],
  [['PROJECT'], /Say where the files go/],
  [['PROJECT', '--out', 'x', '--part', '4'], /There is no part 4: the project has 3 parts/],
  [['PROJECT', '--out', 'x', '--part', 'two'], /“two” names no parts/],
  [['PROJECT', '--out', 'x', '--part', '3'], /nothing is recorded in these parts/],
  [['PROJECT', '--out', 'x', '--part', '1', '--all'], /Choose --part or --all/],
  [['PROJECT', '--out', 'x', '--format', 'ogg'], /There is no format “ogg”/],
  [['PROJECT', '--out', 'x', '--what', 'drum'], /“drum” is nothing a part has/],
  [['PROJECT', '--out', 'x', '--what', 'bed'], /these parts have no bed/],
  [['PROJECT', '--out', 'nowhere/at/all'], /The folder nowhere\/at\/all cannot be made/],
])('%j is told, with how the command is given', (args, message) => {
  const { status, stderr } = run(...args.map((argument) => (argument === 'PROJECT' ? project : argument)));
  expect(status).toBe(2);
  expect(stderr).toMatch(message);
  expect(stderr).toContain('npm run --silent export -- PROJECT-FILE --out FOLDER');
  expect(existsSync('x')).toBe(false);
});
