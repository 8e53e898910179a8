import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { decode, makeSpeechFile } from '../../e2e/support/audio';
import { exportFloat } from '../../e2e/support/app';
import { killNoise, killWhileRecording } from '../../e2e/support/kill';
import { differencesFrom } from '../../e2e/support/noise';
import { startServer } from '../../e2e/support/server';
import type { Row } from './row';

const blockFrames = 16_384;

interface Outcome {
  missingBlocks: number;
  frames: number;
  different: number;
}

/**
 * Kills Chromium at a random moment of recording noise; returns what was missing of what had been shown, and
 * what of the rest is not the noise.
 */
async function killOnce(folder: string): Promise<Outcome> {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-bench-kill-'));
  try {
    const { again, shown, recovered } = await killWhileRecording(profile, 'Killed', 2.5 + Math.random() * 4);
    const heard = decode(await exportFloat(again.page, folder));
    await again.close();
    const { different } = differencesFrom(heard, killNoise().channels[0]);
    return { missingBlocks: (shown - recovered) / blockFrames, frames: heard.length, different };
  } finally {
    rmSync(profile, { recursive: true, force: true });
  }
}

export async function benchKills(times: number): Promise<Row[]> {
  makeSpeechFile();
  const server = await startServer();
  const folder = mkdtempSync(path.join(tmpdir(), 'parola-bench-'));
  const results: Outcome[] = [];
  try {
    for (let i = 0; i < times; i++) results.push(await killOnce(folder));
  } finally {
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
  const missing = results.map((result) => result.missingBlocks).sort((a, b) => a - b);
  const sum = (field: 'different' | 'frames') => results.reduce((total, result) => total + result[field], 0);
  return [
    ['Recordings killed (SIGKILL) at a random moment', String(times), 'at least 30'],
    [
      'Frames recovered that are not those of the noise that was recorded, of all',
      `${sum('different')} of ${sum('frames').toLocaleString('en')}`,
      '0',
    ],
    [
      'Missing of what had been on the screen, in blocks of 0.37 s at 44.1 kHz: median and most',
      `${missing[Math.floor(missing.length / 2)].toFixed(2)}, ${missing[missing.length - 1].toFixed(2)}`,
      'at most 1, and what the last transaction had not been given',
    ],
  ];
}
