import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import type { Planar } from '@/core/base/audio';
import { Resampler } from '@/core/dsp/resampler';
import { Meter } from '@/core/loudness/measure';
import { analysisRateHz } from '@/core/speech/cepstra';
import { analyse, defaultFindingOptions, findingKinds } from '@/core/speech/findings';
import type { FileFormat } from '@/core/specs/fileFormat';
import { promptRateHz, prompts } from '@/core/testing/prompts';
import { sessionWithFlubs } from '@/core/testing/rereadings';
import { concat, scratchFolder } from '@/core/testing/signals';
import { readWhole, sourceOf, writeSound } from '@/core/testing/soundFiles';
import type { Output } from '@/core/timeline/output';
import { PartRenderer } from '@/core/timeline/partRenderer';
import { PieceTable, type Piece } from '@/core/timeline/pieces';
import { soundingOfTracks } from '@/core/timeline/sounding';
import type { SourceReader } from '@/core/timeline/sourceReader';
import { encoders } from './encoders';

/**
 * What was written and found on 2026-11-26, before anything was made faster: a change of speed alone changes
 * none of it. Where a result is to be another one, delete its entry, run the test with KEEP=1 and say why in
 * docs/decisions.md.
 */
const keptPath = `${__dirname}/kept.json`;
const kept = (existsSync(keptPath) ? JSON.parse(readFileSync(keptPath, 'utf8')) : {}) as Record<
  string,
  unknown
>;

function expectKept(name: string, value: unknown) {
  if (process.env.KEEP && !(name in kept)) {
    kept[name] = value;
    writeFileSync(keptPath, `${JSON.stringify(kept, null, 2)}\n`);
  }
  expect(value).toEqual(kept[name]);
}

const sum = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const folder = scratchFolder();
const rateHz = 48_000;

/** 50 s of the demo's readings, one voice on each side. */
const voices = (async () => {
  const read = async (name: string) => {
    const { sound, audio } = await readWhole(sourceOf(`public/demo/${name}.mp3`));
    expect(sound.rateHz).toBe(rateHz);
    return audio[0];
  };
  const [left, right] = [
    concat(await read('arrival'), await read('boat-house')),
    concat(await read('keepers-talk'), await read('stair')),
  ];
  const frames = Math.min(left.length, right.length, 50 * rateHz);
  return [left.slice(0, frames), right.slice(0, frames)];
})();

/** Heard through cuts, joins and, with an output, the limiter. */
async function heard(output?: Output): Promise<Float32Array[]> {
  const audio = await voices;
  const frames = audio[0].length;
  const sources: SourceReader = {
    lengthOf: () => frames,
    read: (_source, channel, from, count, into, offset) => {
      into.set(audio[channel].subarray(from, from + count), offset);
      return Promise.resolve();
    },
  };
  const cut = Math.floor(frames / 3);
  const piece = (channel: number, from: number, length: number, gainDb: number): Piece => {
    return { kind: 'audio', source: 'take', channel, from, length, gainDb };
  };
  const table = (channel: number) =>
    PieceTable.of([piece(channel, 0, cut, 0), piece(channel, cut + 4800, frames - cut - 4800, 1.5)]);
  const sounding = soundingOfTracks(
    [
      { table: table(0), side: 'left' },
      { table: table(1), side: 'right' },
    ],
    { joins: { joinFrames: 480, toneJoinFrames: 1920 }, rateHz },
    output,
  );
  const part = new PartRenderer(sounding, sources);
  const chunks: Planar[] = [];
  for await (const chunk of part.stream({ delivering: 2 }, { from: 0, to: part.heardFrames }, 96_000))
    chunks.push(chunk);
  return [0, 1].map((side) => concat(...chunks.map((chunk) => chunk[side])));
}

const loud: Output = { gainDb: 9, dcOffsets: [0.001, -0.002], ceiling: { kind: 'true', dbfs: -3 } };
const broadcast = {
  description: 'A reading',
  originator: 'Parola',
  originatorReference: 'P-1',
  recordedAt: Date.UTC(2026, 10, 26, 10),
  utcOffsetMinutes: 0,
  timeReference: 0,
  codingHistory: '',
};

const files: { name: string; format: Partial<FileFormat>; extras?: Parameters<typeof writeSound>[3] }[] = [
  { name: '16 bits, dithered', format: { container: 'wav', encoding: 'pcm16', dither: true } },
  { name: '24 bits, broadcast', format: { container: 'wav', encoding: 'pcm24' }, extras: { broadcast } },
  { name: 'float', format: { container: 'wav', encoding: 'float32' } },
  { name: '24 bits at 44.1 kHz', format: { container: 'wav', encoding: 'pcm24', rateHz: 44_100 } },
  { name: '24 bits at 96 kHz', format: { container: 'wav', encoding: 'pcm24', rateHz: 96_000 } },
  { name: 'AIFF', format: { container: 'aiff', encoding: 'pcm24' } },
  { name: 'FLAC', format: { container: 'flac', encoding: 'pcm24' } },
  { name: 'MP3, constant', format: { container: 'mp3', bitRateKbps: 192 } },
  { name: 'MP3, variable, 44.1 kHz', format: { container: 'mp3', vbrQuality: 2, rateHz: 44_100 } },
];

test.each(files)(
  'a file is byte for byte what it was: $name',
  async ({ name, format, extras }) => {
    const path = `${folder}/file`;
    await writeSound(path, await heard(), format, extras, encoders);
    expectKept(name, sum(readFileSync(path)));
  },
  60_000,
);

test('a file through the limiter is byte for byte what it was, and measures what it did', async () => {
  const path = `${folder}/limited`;
  const audio = await heard(loud);
  await writeSound(path, audio, { container: 'wav', encoding: 'pcm24' });
  expectKept('limited', sum(readFileSync(path)));
  const meter = new Meter(rateHz, 2);
  meter.process(audio);
  const { integratedLufs, loudnessRangeLu, truePeakDbtp, noiseFloorDbfs, rmsDbfs, samplePeakDbfs } =
    meter.finish();
  // Sums may be taken in another order: the K-weighted figures are the same within 1e-9 LU.
  const round = (value: number) => Number(value.toFixed(8));
  expectKept('limited, peaks', { truePeakDbtp, samplePeakDbfs });
  expectKept('limited, levels', [integratedLufs, loudnessRangeLu, noiseFloorDbfs, rmsDbfs].map(round));
}, 60_000);

test('what is found in 20 minutes of two voices, every kind, is what it was', () => {
  const sessions: Float32Array[] = [];
  let frames = 0;
  for (let seed = 1; frames < 1200 * promptRateHz; seed++) {
    const voice = seed % 2 ? 'en' : 'fr';
    const { audio } = sessionWithFlubs(prompts(voice, 60, 1.2), seed, seed % 3 === 0);
    sessions.push(audio);
    frames += audio.length;
  }
  const up = new Resampler(promptRateHz, rateHz);
  const down = new Resampler(rateHz, analysisRateHz, 'analysis');
  const recorded = [up.process(concat(...sessions).subarray(0, 1200 * promptRateHz)), up.flush()];
  const samples = concat(...recorded.map((part) => down.process(part)), down.flush());
  expect(samples.length).toBe(1200 * analysisRateHz);
  const { findings, speech, tone } = analyse(
    { samples, marks: [], clipped: [] },
    { ...defaultFindingOptions, kinds: findingKinds, breathOverDb: 6 },
  );
  expect(findings.length).toBeGreaterThan(100);
  expectKept('heard at 16 kHz', sum(new Uint8Array(samples.buffer)));
  expectKept('number of findings', findings.length);
  expectKept('findings', sum(Buffer.from(JSON.stringify(findings))));
  expectKept('speech', sum(Buffer.from(JSON.stringify({ speech, tone }))));
}, 120_000);
