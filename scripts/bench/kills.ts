import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import {
  compareWithPlayed,
  decode,
  fakeDeviceSamples,
  makeSpeechFile,
  speechFile,
} from '../../e2e/support/audio';
import { exportFloat } from '../../e2e/support/app';
import { killWhileRecording } from '../../e2e/support/kill';
import { startServer } from '../../e2e/support/server';
import type { Row } from './row';

const blockFrames = 16_384;

/** Kills Chromium at a random moment of a recording; returns what was missing of what had been shown, in blocks. */
async function killOnce(folder: string): Promise<{ missingBlocks: number; intact: boolean }> {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-bench-kill-'));
  try {
    const { again, shown, recovered } = await killWhileRecording(profile, 'Killed', 2.5 + Math.random() * 4);
    const heard = decode(await exportFloat(again.page, folder));
    const compared = compareWithPlayed(heard, fakeDeviceSamples(speechFile));
    await again.close();
    if (compared.lost > 0) console.error(`not intact: ${JSON.stringify(compared)} of ${heard.length} frames`);
    return { missingBlocks: (shown - recovered) / blockFrames, intact: compared.lost === 0 };
  } finally {
    rmSync(profile, { recursive: true, force: true });
  }
}

export async function benchKills(times: number): Promise<Row[]> {
  makeSpeechFile();
  const server = await startServer();
  const folder = mkdtempSync(path.join(tmpdir(), 'parola-bench-'));
  const results: Awaited<ReturnType<typeof killOnce>>[] = [];
  try {
    for (let i = 0; i < times; i++) results.push(await killOnce(folder));
  } finally {
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
  const missing = results.map((result) => result.missingBlocks).sort((a, b) => a - b);
  return [
    ['Recordings killed (SIGKILL) at a random moment', String(times), 'at least 10'],
    [
      'Takes recovered with every recovered sample intact',
      String(results.filter((result) => result.intact).length),
      String(times),
    ],
    [
      'Missing of what had been on the screen, in blocks of 0.37 s at 44.1 kHz: median and most',
      `${missing[Math.floor(missing.length / 2)].toFixed(2)}, ${missing[missing.length - 1].toFixed(2)}`,
      'at most 1, and what the last transaction had not been given',
    ],
  ];
}
