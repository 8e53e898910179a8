import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { builtInSpecs } from '@/core/specs/builtIn';
import { noLimits } from '@/core/specs/spec';
import { specToJson } from '@/core/specs/specFile';
import { byHand, putTogether } from './testing/command';
import { noise, scratchFolder, writeWav } from '@/core/testing/signals';

const folder = scratchFolder();
const delivery = `${folder}/delivery`;

const { run: proof, file: command, remove } = putTogether('proof');
afterAll(remove);

beforeAll(() => {
  mkdirSync(delivery);
  // White noise: its true peak is far over −1 dBTP when its RMS is −3 dBFS, and at −20 dBFS it is not.
  writeWav(`${delivery}/1-good.wav`, 48_000, [noise(48_000 * 4, -23, 1)], 'pcm24');
  writeWav(`${delivery}/2-loud.wav`, 48_000, [noise(48_000 * 4, -3, 2)], 'pcm24');
  writeFileSync(`${delivery}/3-broken.wav`, 'RIFF nothing');
});

test('a file that passes ends with 0; its figures are those of ffmpeg (ebur128)', () => {
  const spec = `${folder}/peaks.json`;
  const { status, stdout } = proof(`${delivery}/1-good.wav`, '--spec', 'Broadcast EU', '--json');
  const [found] = JSON.parse(stdout) as { integratedLufs: number; truePeakDbtp: number; passes: boolean }[];
  const summary = spawnSync(
    'ffmpeg',
    ['-nostats', '-i', `${delivery}/1-good.wav`, '-af', 'ebur128=peak=true', '-f', 'null', '-'],
    { encoding: 'utf8' },
  ).stderr;
  const theirs = Number(/I:\s+(-[\d.]+) LUFS\s+Threshold/.exec(summary)?.[1]);
  const theirPeak = Number(/Peak:\s+(-[\d.]+) dBFS/.exec(summary)?.[1]);
  expect(Math.abs(found.integratedLufs - theirs)).toBeLessThanOrEqual(0.1);
  expect(Math.abs(found.truePeakDbtp - theirPeak)).toBeLessThanOrEqual(0.2);
  expect(status).toBe(found.passes ? 0 : 1);

  // Limits just around what ffmpeg reads: it passes; just beside: it does not.
  const own = (min: number, max: number) =>
    writeFileSync(
      spec,
      specToJson({
        ...builtInSpecs[0],
        name: 'Just this',
        limits: { ...noLimits, integratedLufs: { min, max } },
      }),
    );
  own(theirs - 0.2, theirs + 0.2);
  expect(proof(`${delivery}/1-good.wav`, '--spec', spec)).toMatchObject({ status: 0, stderr: '' });
  own(theirs + 0.2, theirs + 1);
  const beside = proof(`${delivery}/1-good.wav`, '--spec', spec);
  expect(beside.status).toBe(1);
  expect(beside.stdout).toMatch(/^FAULTS .*1-good\.wav {2}\(Just this\)\n {2}fault {2}Loudness/);
});

test('a folder with a file that cannot be read: the others are measured, and the report says which it has', () => {
  const report = `${folder}/report.json`;
  const { status, stdout, stderr } = byHand('proof', delivery, '--spec', 'Dry voice', '--report', report);
  expect(status).toBe(2);
  expect(stdout).toMatch(/FAULTS .*2-loud\.wav/);
  expect(stdout).toMatch(/cannot read {2}.*3-broken\.wav/);
  expect(stderr).toContain(`Not in the report: ${delivery}/3-broken.wav`);
  const written = JSON.parse(readFileSync(report, 'utf8')) as {
    project: string;
    files: { fileName: string; sha256: string; passes: boolean }[];
  };
  expect(written.project).toBe('delivery');
  expect(written.files.map(({ fileName }) => fileName)).toEqual(['1-good.wav', '2-loud.wav']);
  const [sum] = execFileSync('sha256sum', [`${delivery}/2-loud.wav`], { encoding: 'utf8' }).split(' ');
  expect(written.files[1]).toMatchObject({ sha256: sum, passes: false });
});

test.each([
  [['--spec', 'Dry voice'], 'Name at least one file or folder.'],
  [['a.wav', '--spec', 'Nothing'], 'There is no spec “Nothing”.'],
  [
    ['a.wav', '--spec', 'Dry voice', '--report', 'a.txt'],
    'A report is a file that ends in .html, .csv or .json.',
  ],
  [['a.wav', '--loud'], 'loud'],
])('%j is refused with what to do', (args, message) => {
  const { status, stdout, stderr } = proof(...args);
  expect(status).toBe(2);
  expect(stdout).toBe('');
  expect(stderr).toContain(message);
  expect(stderr).toContain('npm run proof -- FILE|FOLDER…');
});

test('a report that cannot be written takes no result with it', () => {
  const { status, stdout, stderr } = proof(
    `${delivery}/1-good.wav`,
    '--spec',
    'Dry voice',
    '--report',
    `${folder}/none/a.csv`,
  );
  expect(status).toBe(2);
  expect(stdout).toContain('1-good.wav');
  expect(stderr).toMatch(/The report cannot be written to .*none\/a\.csv \(ENOENT.*Name another file/);
});

test('a file that is cut short never passes', () => {
  const whole = readFileSync(`${delivery}/1-good.wav`);
  writeFileSync(`${folder}/cut.wav`, whole.subarray(0, whole.length / 2));
  const spec = `${folder}/none.json`;
  writeFileSync(spec, `\uFEFF${specToJson({ ...builtInSpecs[0], name: 'Anything', limits: noLimits })}`);
  expect(proof(`${delivery}/1-good.wav`, '--spec', spec).status).toBe(0);
  const { status, stdout } = proof(`${folder}/cut.wav`, '--spec', spec);
  expect(status).toBe(1);
  expect(stdout).toMatch(/^FAULTS .*cut\.wav.*\n {2}fault {2}The file is cut short/);
});

test('who has seen enough closes what is printed to, and nothing is complained of', () => {
  const line = `${process.execPath} ${command} ${delivery}/1-good.wav --spec 'Dry voice' --json | true`;
  const { stderr } = spawnSync('bash', ['-c', line], { encoding: 'utf8' });
  expect(stderr).toBe('');
});

test('names do nothing to a terminal; a pipe in the place of a spec is none', () => {
  const odd = `${folder}/\u001b[31mred\u202e.wav`;
  writeFileSync(odd, 'no sound');
  for (const form of [[], ['--json']]) {
    const { stdout, status } = proof(odd, '--spec', 'Dry voice', ...form);
    expect(status).toBe(2);
    expect(stdout).not.toMatch(/[\u001b\u202e]/);
    expect(stdout).toContain('\\u001b[31mred\\u202e.wav');
  }
  execFileSync('mkfifo', [`${folder}/pipe.json`]);
  const { stderr } = proof(`${delivery}/1-good.wav`, '--spec', `${folder}/pipe.json`);
  expect(stderr).toMatch(/There is no spec file/);
});
