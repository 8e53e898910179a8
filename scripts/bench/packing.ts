import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { killWhilePacking, type StoredNoise } from '../../e2e/support/packing';
import { startServer } from '../../e2e/support/server';
import type { Row } from './row';

/** Two minutes and a bit: 44 packed blocks. */
const frames = 350 * 16_384 + 777;
async function killOnce(): Promise<StoredNoise> {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-bench-pack-'));
  try {
    return await killWhilePacking(profile, frames, Math.random());
  } finally {
    rmSync(profile, { recursive: true, force: true });
  }
}

/** Kills Chromium while the audio of a closed take is put into larger blocks. */
export async function benchPacking(times: number): Promise<Row[]> {
  const server = await startServer();
  const results: StoredNoise[] = [];
  try {
    for (let i = 0; i < times; i++) results.push(await killOnce());
  } finally {
    server.kill();
  }
  const midway = results.filter(({ recorded, packed }) => recorded > 1 && packed > 0).length;
  const before = results.filter(({ packed }) => packed === 0).length;
  return [
    [
      'Killed (SIGKILL) around and while a take’s audio is put into larger blocks: before, midway, after',
      `${before}, ${midway}, ${times - before - midway}`,
      'at least 50',
    ],
    [
      'Frames missing, there twice, or not those that were recorded',
      String(results.reduce((sum, { different }) => sum + different, 0)),
      '0',
    ],
  ];
}
