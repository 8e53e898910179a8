import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { MemorySource } from '@/core/formats/bytes';
import { readWavFrames, readWavInfo } from '@/core/formats/wavReader';
import { Resampler } from '@/core/dsp/resampler';
import type { Voice } from './scenario';

export const rateHz = 48_000;
const work = mkdtempSync(path.join(tmpdir(), 'parola-demo-'));
let files = 0;
const fresh = (extension: string) => path.join(work, `${files++}.${extension}`);

/** Small changes between two readings of the same words, as a person makes them. */
export interface Variation {
  tempo: number;
  pitchCents: number;
  trebleDb: number;
}

const plain: Variation = { tempo: 1, pitchCents: 0, trebleDb: 0 };

const fliteVoices = { tomas: 'rms', aldo: 'awb', anders: 'kal16' } as const;

/**
 * Speech of one of Debian's free voices (festival's slt, flite's rms, awb and kal) at 48 kHz mono, silence
 * trimmed off both ends.
 */
export async function speak(text: string, voice: Voice, variation: Variation = plain): Promise<Float32Array> {
  const spoken = fresh('wav');
  if (voice === 'ines') {
    const source = fresh('txt');
    writeFileSync(source, text);
    execFileSync('text2wave', [source, '-o', spoken, '-eval', '(voice_cmu_us_slt_arctic_hts)']);
  } else {
    execFileSync('flite', ['-voice', fliteVoices[voice], '-t', text, '-o', spoken]);
  }
  const varied = fresh('wav');
  const { tempo, pitchCents, trebleDb } = variation;
  const trim = ['silence', '1', '0.01', '-55d', 'reverse', 'silence', '1', '0.01', '-55d', 'reverse'];
  execFileSync('sox', [
    '-G',
    spoken,
    '-b',
    '24',
    varied,
    'pitch',
    `${pitchCents}`,
    'tempo',
    '-s',
    `${tempo}`,
    'treble',
    `${trebleDb}`,
    '3k',
    ...trim,
  ]);
  return readMono(varied);
}

async function readMono(file: string): Promise<Float32Array> {
  const source = new MemorySource(new Uint8Array(readFileSync(file)));
  const info = await readWavInfo(source);
  const [samples] = await readWavFrames(source, info, 0, info.frames);
  if (info.rateHz === rateHz) return samples;
  const resampler = new Resampler(info.rateHz, rateHz);
  const head = resampler.process(samples);
  const tail = resampler.flush();
  const all = new Float32Array(head.length + tail.length);
  all.set(head);
  all.set(tail, head.length);
  return all;
}
