import { execFileSync } from 'node:child_process';
import { linkSync, mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import promises from 'node:fs/promises';
import { noise, scratchFolder, writeWav } from '@/core/testing/signals';
import { FileSource } from './fileSource';
import { tryMeasureFile } from './proofFile';
import { filesOf } from './soundFiles';

const folder = scratchFolder();
const delivery = `${folder}/delivery`;
const wav = (name: string) => writeWav(`${delivery}/${name}`, 8000, [noise(8000, -20, 1)]);

beforeAll(() => {
  mkdirSync(`${delivery}/sub/x.wav`, { recursive: true });
  wav('2.wav');
  wav('10.wav');
  wav('sub/x.wav/inner.wav');
  writeFileSync(`${delivery}/notes.txt`, 'no sound');
  symlinkSync('.', `${delivery}/self`);
  symlinkSync('..', `${delivery}/sub/up.wav`);
  symlinkSync('2.wav', `${delivery}/link.wav`);
  symlinkSync('nowhere.wav', `${delivery}/dangling.wav`);
  linkSync(`${delivery}/10.wav`, `${delivery}/hard.wav`);
  execFileSync('mkfifo', [`${delivery}/pipe.wav`]);
});
afterEach(() => jest.restoreAllMocks());

const named = async (...names: string[]) => {
  const { files, problems } = await filesOf(names);
  return {
    files: files.map(({ name }) => name.replace(`${delivery}/`, '')),
    problems: problems.map(({ name, problem }) => `${name.replace(`${delivery}/`, '')}: ${problem}`),
  };
};

test('in a folder: regular files only, each once, whatever leads to it; a folder is a folder, however it is called', async () => {
  expect(await named(delivery)).toEqual({
    files: ['2.wav', '10.wav', 'sub/x.wav/inner.wav'],
    problems: [],
  });
  expect(await named(delivery, `${delivery}/2.wav`, `${delivery}/link.wav`)).toEqual(await named(delivery));
});

test('what is named is measured whatever its ending, a pipe is not, and what is missing is told', async () => {
  expect(await named(`${delivery}/notes.txt`, `${delivery}/pipe.wav`, `${delivery}/dangling.wav`)).toEqual({
    files: ['notes.txt'],
    problems: [
      'pipe.wav: This is neither a file nor a folder.',
      'dangling.wav: There is no such file, or it may not be read.',
    ],
  });
});

test('a folder that may not be read is told of; the others are looked through', async () => {
  const read = promises.readdir;
  jest
    .spyOn(promises, 'readdir')
    .mockImplementation(((name: string, options: never) =>
      name.toString().endsWith('/sub')
        ? Promise.reject(new Error('EACCES'))
        : read(name, options)) as typeof read);
  expect(await named(delivery)).toEqual({
    files: ['2.wav', '10.wav'],
    problems: ['sub: This folder may not be read.'],
  });
});

test('names that are not UTF-8 are found and measured, in a folder and by what is left of them', async () => {
  const odd = `${folder}/odd`;
  mkdirSync(odd);
  const bytes = Buffer.concat([Buffer.from(`${odd}/caf`), Buffer.from([0xe9]), Buffer.from('.wav')]);
  writeWav(`${odd}/plain.wav`, 8000, [noise(8000, -20, 1)]);
  await promises.rename(`${odd}/plain.wav`, bytes);
  for (const name of [odd, bytes.toString()]) {
    const { files, problems } = await filesOf([name]);
    expect(problems).toEqual([]);
    expect(files).toEqual([{ path: bytes, name: `${odd}/caf\uFFFD.wav` }]);
    expect(await tryMeasureFile(files[0].path, files[0].name)).toMatchObject({
      file: `${odd}/caf\uFFFD.wav`,
      measurement: { frames: 8000 },
    });
  }
});

test('a pipe is no file to read from: nobody waits for it', async () => {
  await expect(FileSource.open(`${delivery}/pipe.wav`)).rejects.toThrow('no regular file');
  await expect(FileSource.open(delivery)).rejects.toThrow('no regular file');
});
