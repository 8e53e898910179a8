import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { prompts, promptRateHz, sessionOf } from '../../src/core/testing/prompts';
import { writeWav } from '../../src/core/testing/signals';

/** Recorded prompts of a voice artist with pauses and a quiet room, at the fake microphone's own rate. */
export const promptsFile = '.cache/e2e-prompts.wav';
/** A microphone that is muted: digital silence. */
export const mutedFile = '.cache/e2e-muted.wav';

export function makePromptFiles(): void {
  if ([promptsFile, mutedFile].every((file) => existsSync(file))) return;
  const one = sessionOf(prompts('en', 24, 1.5), -65, 3).audio;
  const frames = one.length;
  const raw = '.cache/e2e-raw.wav';
  const write = (file: string, channels: Float32Array[]) => {
    writeWav(
      raw,
      promptRateHz,
      channels.map((audio) => audio.slice(0, frames).map((value) => value * 0.8)),
    );
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', raw, '-ar', '44100', '-c:a', 'pcm_s16le', file]);
  };
  write(promptsFile, [one]);
  write(mutedFile, [new Float32Array(frames)]);
}
