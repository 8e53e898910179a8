/**
 * Every reader on so many damaged files. A reader may give audio or refuse with the format's own error; it
 * may not throw anything else, give more audio than the file could hold, or take more than a second of the
 * processor. What breaks this is named by its seed.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { MemorySource } from '@/core/formats/bytes';
import { oggEnd } from '@/core/formats/oggEnd';
import { readSound } from '@/core/formats/readSound';
import { specFromJson, specToJson } from '@/core/specs/specFile';
import { builtInSpecs } from '@/core/specs/builtIn';
import { mutated } from '@/core/testing/mutations';
import { noise } from '@/core/testing/signals';
import { writeSound } from '@/core/testing/soundFiles';
import { Findings, type FuzzResult } from './findings';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-fuzz-'));
const audio = [noise(3000, -20, 1), noise(3000, -30, 2)];
const marks = [{ at: 100, length: 50, name: 'a' }];
const slowestMs = 1000;
/**
 * No file of these sizes holds more: FLAC can say a lot of silence in few bytes, up to what a hole may be.
 */
const mostFrames = 48_000 * 700;

interface Sample {
  name: string;
  bytes: Uint8Array<ArrayBuffer>;
  read: (bytes: Uint8Array<ArrayBuffer>) => Promise<number>;
}

async function framesIn(bytes: Uint8Array<ArrayBuffer>): Promise<number> {
  let frames = 0;
  for await (const chunk of readSound(new MemorySource(bytes), () => undefined)) frames += chunk[0].length;
  return frames;
}

async function samples(): Promise<Sample[]> {
  const broadcast = {
    ...{ description: 'd', originator: 'o', originatorReference: 'r', codingHistory: 'h' },
    ...{ recordedAt: 0, utcOffsetMinutes: 0, timeReference: 9 },
  };
  const wav = await writeSound(
    `${folder}/a.wav`,
    audio,
    { broadcast: true, marks: true },
    { broadcast, marks },
  );
  const aiff = await writeSound(`${folder}/a.aif`, audio, { container: 'aiff' });
  const tags = { title: 't', album: 'a', artist: 'b', track: 1, tracks: 2, date: '2026', comment: 'c' };
  const mp3 = await writeSound(
    `${folder}/a.mp3`,
    audio,
    { container: 'mp3', encoding: 'pcm16', marks: true },
    { tags, marks },
  );
  const by = (name: string, ...args: string[]) => {
    const file = `${folder}/${name}`;
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', wav, ...args, file]);
    return file;
  };
  execFileSync('flac', ['-s', '-f', '-8', '-o', `${folder}/a.flac`, wav], { stdio: 'ignore' });
  const files = [
    wav,
    aiff,
    mp3,
    `${folder}/a.flac`,
    by('fixed.flac', '-c:a', 'flac', '-compression_level', '0', '-sample_fmt', 's16'),
    by('ulaw.wav', '-c:a', 'pcm_mulaw'),
    by('rf64.wav', '-rf64', 'always'),
    by('float.aiff', '-c:a', 'pcm_f32be'),
  ];
  const sounds = files.map((file) => ({
    name: path.basename(file),
    bytes: new Uint8Array(readFileSync(file)),
    read: framesIn,
  }));
  const ogg = new Uint8Array(readFileSync(by('a.ogg', '-c:a', 'libvorbis')));
  const spec = new TextEncoder().encode(specToJson(builtInSpecs[0]));
  return [
    ...sounds,
    { name: 'ogg end', bytes: ogg, read: (bytes) => oggEnd(new MemorySource(bytes)).then(() => 0) },
    {
      name: 'spec file',
      bytes: spec,
      read: (bytes) => Promise.resolve(specFromJson(new TextDecoder().decode(bytes)) ? 0 : 0),
    },
  ];
}

export async function randomDamage(count: number, first: number): Promise<FuzzResult> {
  const all = await samples();
  const result = new Findings();
  for (let i = 0; i < count && result.broken.length <= 20; i++) {
    const seed = first + i;
    const { name, bytes, read } = all[seed % all.length];
    await result.watch(`${name}, seed ${seed}`, slowestMs, async () => {
      const frames = await read(mutated(bytes, seed));
      if (frames > mostFrames) throw new Error(`${frames} frames`);
    });
  }
  return result;
}
