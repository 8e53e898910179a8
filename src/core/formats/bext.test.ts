import { execFileSync } from 'node:child_process';
import path from 'node:path';
import { noise, scratchFolder, decodeWithFfmpeg, firstDifference } from '../testing/signals';
import { writeFileSync } from 'node:fs';
import { bextChunk, type BroadcastInfo } from './bext';
import { MemorySource, viewOf } from './bytes';
import { readWavInfo } from './wavReader';
import { WavEncoder, wavHeader } from './wavWriter';

const info: BroadcastInfo = {
  description: 'The Lamp House, Part 1, Take 3 – “loud”',
  originator: 'Parola',
  originatorReference: 'take-3',
  recordedAt: Date.UTC(2026, 10, 23, 22, 30, 5),
  utcOffsetMinutes: 120,
  timeReference: 5_000_000_123,
  codingHistory: 'A=PCM,F=48000,M=mono,T=Parola\r\n',
};

/** Field offsets of EBU Tech 3285 version 2, from memory. */
test('fields stand where EBU Tech 3285 wants them; text is cut to its field and kept to ASCII', () => {
  const chunk = bextChunk({ ...info, originator: 'x'.repeat(50) });
  const view = viewOf(chunk);
  const text = (at: number, length: number) =>
    Buffer.from(chunk.subarray(8 + at, 8 + at + length)).toString('latin1');
  expect(Buffer.from(chunk.subarray(0, 4)).toString()).toBe('bext');
  expect(view.getUint32(4, true)).toBe(602 + info.codingHistory.length);
  expect(chunk.length % 2).toBe(0);
  expect(text(0, 39)).toBe('The Lamp House, Part 1, Take 3 ? ?loud?');
  expect(text(256, 33)).toBe('x'.repeat(32) + 't');
  expect(text(320, 18)).toBe('2026-11-2400:30:05');
  expect(view.getBigUint64(8 + 338, true)).toBe(5_000_000_123n);
  expect(view.getUint16(8 + 346, true)).toBe(2);
  // Not measured (Tech 3285 v2, 2.4).
  for (let field = 0; field < 5; field++) expect(view.getInt16(8 + 412 + 2 * field, true)).toBe(0x7fff);
  expect(text(602, 5)).toBe('A=PCM');
});

test('ffprobe reads the fields, ffmpeg and Parola the same audio', async () => {
  const audio = noise(4801, -20, 3);
  const format = { encoding: 'float32' as const, rateHz: 48_000, channels: 1, dither: 'none' as const };
  const encoder = new WavEncoder(format);
  const bytes = Buffer.concat([
    wavHeader(format, audio.length, bextChunk(info)),
    encoder.process([audio]),
    encoder.finish(),
  ]);
  const file = path.join(scratchFolder(), 'take.wav');
  writeFileSync(file, bytes);
  const json = execFileSync('ffprobe', ['-v', 'error', '-show_format', '-of', 'json', file], {
    encoding: 'utf8',
  });
  const { tags } = (JSON.parse(json) as { format: { tags: Record<string, string> } }).format;
  expect(tags).toMatchObject({
    time_reference: '5000000123',
    encoded_by: 'Parola',
    originator_reference: 'take-3',
    date: '2026-11-24',
    creation_time: '00:30:05',
    coding_history: expect.stringContaining('A=PCM,F=48000'),
  });
  expect(firstDifference(decodeWithFfmpeg(file), audio)).toBe(-1);
  expect((await readWavInfo(new MemorySource(new Uint8Array(bytes)))).frames).toBe(audio.length);
});
