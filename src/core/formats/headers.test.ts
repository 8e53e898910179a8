import { readFileSync } from 'node:fs';
import { noise, scratchFolder } from '../testing/signals';
import { readWhole, writeSound } from '../testing/soundFiles';
import { aiffHeader, readAiffInfo } from './aiff';
import { bextChunk, bextInfo } from './bext';
import { MemorySource, viewOf } from './bytes';
import { readWavInfo } from './wavReader';

/** What headers of WAV and AIFF may claim, at the edges of it. */
const folder = scratchFolder();
const fileOf = async (container: 'wav' | 'aiff') =>
  new Uint8Array(
    readFileSync(
      await writeSound(`${folder}/a.${container}`, [noise(1000, -20, 1)], { container, encoding: 'pcm16' }),
    ),
  );
const changed = (bytes: Uint8Array<ArrayBuffer>, change: (view: DataView<ArrayBufferLike>) => void) => {
  const copy = bytes.slice();
  change(viewOf(copy));
  return new MemorySource(copy);
};

test.each([
  [0, 'refused'],
  [1, 'taken'],
  [32, 'taken'],
  [33, 'refused'],
])('%d channels are %s', async (channels, what) => {
  const wav = changed(await fileOf('wav'), (view) => view.setUint16(22, channels, true));
  const aiff = changed(await fileOf('aiff'), (view) => view.setUint16(20, channels));
  for (const info of [readWavInfo(wav), readAiffInfo(aiff)])
    await (what === 'taken'
      ? expect(info).resolves.toMatchObject({ channels })
      : expect(info).rejects.toThrow(`it claims ${channels} channels`));
});

test.each([
  [999, 'refused'],
  [1000, 'taken'],
  [768_000, 'taken'],
  [768_001, 'refused'],
])('a sample rate of %d Hz is %s', async (rateHz, what) => {
  const info = readWavInfo(changed(await fileOf('wav'), (view) => view.setUint32(24, rateHz, true)));
  await (what === 'taken'
    ? expect(info).resolves.toMatchObject({ rateHz })
    : expect(info).rejects.toThrow(`a sample rate of ${rateHz} Hz`));
});

test('an AIFF file has as many frames as it says, and as are there', async () => {
  const bytes = await fileOf('aiff');
  const whole = await readWhole(new MemorySource(bytes));
  expect(whole.sound).toMatchObject({ frames: 1000, truncated: false });
  const fewer = await readWhole(changed(bytes, (view) => view.setUint32(22, 600)));
  expect(fewer.audio[0]).toEqual(whole.audio[0].slice(0, 600));
  // Its common chunk says more than its sound chunk holds: the sound chunk is right.
  const more = await readAiffInfo(changed(bytes, (view) => view.setUint32(22, 5000)));
  expect(more).toMatchObject({ frames: 1000, truncated: false });
  const cut = await readWhole(new MemorySource(bytes.slice(0, 54 + 2 * 700)));
  expect(cut.sound).toMatchObject({ frames: 700, truncated: true });
  expect(cut.audio[0]).toEqual(whole.audio[0].slice(0, 700));
  // The sound may begin later in its chunk.
  const later = await readAiffInfo(changed(bytes, (view) => view.setUint32(46, 100)));
  expect(later).toMatchObject({ frames: 950, dataOffset: 154 });
});

test('an AIFF file without sound, or with half a chunk of it, says so', async () => {
  const bytes = await fileOf('aiff');
  await expect(readAiffInfo(new MemorySource(bytes.slice(0, 38)))).rejects.toThrow('it has no audio in it');
  await expect(readAiffInfo(new MemorySource(bytes.slice(0, 50)))).rejects.toThrow('cut short');
  await expect(readAiffInfo(new MemorySource(bytes.slice(0, 12)))).rejects.toThrow('common chunk is missing');
  await expect(readAiffInfo(changed(bytes, (view) => view.setUint16(26, 40)))).rejects.toThrow(
    /\(NONE, 40 bits\) cannot be read/,
  );
});

test('an AIFF file ends at 4 GiB', () => {
  const format = { rateHz: 48_000, channels: 1, bytesPerSample: 2 } as const;
  // 46 bytes of the FORM chunk are no audio.
  const most = (0xffff_ffff - 1 - 46) / 2;
  expect(viewOf(aiffHeader(format, most)).getUint32(4)).toBe(0xffff_fffe);
  expect(() => aiffHeader(format, most + 1)).toThrow('AIFF ends at 4 GiB');
});

test('a Broadcast chunk needs its 348 bytes, and no more (EBU Tech 3285)', () => {
  const chunk = bextChunk({
    description: 'Job / Part 1',
    originator: 'Parola',
    originatorReference: '',
    recordedAt: Date.UTC(2026, 10, 26, 9, 5, 3),
    utcOffsetMinutes: 60,
    timeReference: 48_000,
    codingHistory: '',
  });
  const body = chunk.slice(8);
  const origin = {
    description: 'Job / Part 1',
    originator: 'Parola',
    date: '2026-11-26',
    time: '10:05:03',
    timeReference: 48_000,
  };
  expect(bextInfo(body)).toEqual(origin);
  expect(bextInfo(body.slice(0, 348))).toEqual(origin);
  expect(bextInfo(body.slice(0, 347))).toBeNull();
});
