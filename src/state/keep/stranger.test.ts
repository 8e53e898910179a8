import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { noise } from '@/core/testing/signals';
import { MemoryFolder } from '@/storage/testing/memoryFolder';
import { copyRound } from '@/workers/copyRound';
import { saved } from '../page/saving';
import { resetStores } from '../page/resets';
import { addMark } from '../sheet/marks';
import { select } from '../sheet/part';
import { strikeSelection } from '../sheet/editing';
import { openFresh, recordAudio } from '../testing/fixture';

jest.mock('@/storage/films', () => ({ filmFile: () => Promise.resolve(null), writeFilm: jest.fn() }));
afterEach(resetStores);

/** Written from docs/formats.md, with Python's standard library alone. */
const script = 'scripts/read_project.py';

const floats = (bytes: Buffer) =>
  new Float32Array(bytes.buffer.slice(bytes.byteOffset + 58, bytes.byteOffset + bytes.length));

test('a stranger reads a copy: takes to the sample, what is heard of the sheet, and where each piece stands', async () => {
  const { project } = await openFresh('The stair');
  const [one, two] = [noise(48_000, -20, 1), noise(24_000, -20, 2)];
  await recordAudio(one);
  await recordAudio(two);
  select(10_000, 20_000);
  strikeSelection();
  addMark('note', 30_000);
  expect(await saved()).toBe(true);
  const folder = new MemoryFolder('Copies');
  const input = { folder: folder.handle, projectId: project.id, freshly: true, damaged: [], live: null };
  await copyRound(input, { signal: new AbortController().signal, progress: () => undefined });
  const directory = mkdtempSync(path.join(tmpdir(), 'parola-stranger-'));
  try {
    for (const [name, bytes] of folder.contents()) {
      const file = path.join(directory, name);
      mkdirSync(path.dirname(file), { recursive: true });
      writeFileSync(file, bytes);
    }
    const [home] = readdirSync(directory);
    const out = path.join(directory, 'out');
    execFileSync('python3', [script, path.join(directory, home), out]);
    expect(readdirSync(path.join(out, 'takes')).sort()).toHaveLength(2);
    const takes = readdirSync(path.join(out, 'takes')).map((name) =>
      floats(readFileSync(path.join(out, 'takes', name))),
    );
    expect(takes.some((audio) => Buffer.from(audio.buffer).equals(Buffer.from(one.slice().buffer)))).toBe(
      true,
    );
    const heard = floats(readFileSync(path.join(out, 'The stair - Voice.wav')));
    const wanted = new Float32Array([...one.subarray(0, 10_000), ...one.subarray(20_000), ...two]);
    expect(heard).toEqual(wanted);
    const cues = readFileSync(path.join(out, 'cues.csv'), 'utf8').trim().split(/\r?\n/);
    expect(cues[0]).toBe('part,track,start,end,kind,recording,from,gain_db,struck');
    expect(cues.at(-1)).toMatch(/^The stair,Voice,1\.0,1\.5,audio,Take 1'?,0\.0,0,$/);
    expect(readFileSync(path.join(out, 'marks.csv'), 'utf8')).toContain('The stair,note,0.625,0.0,');
  } finally {
    rmSync(directory, { recursive: true });
  }
});
