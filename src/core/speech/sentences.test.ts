import { prompts, promptRateHz, sessionOf } from '../testing/prompts';
import { noise } from '../testing/signals';
import { sentenceEnd, sentencePunch, sentencesOf } from './sentences';
import { findSpeech } from './voiceActivity';

const percentile = (sorted: number[], p: number) => sorted[Math.floor((sorted.length - 1) * p)];

/** Recorded prompts of two voice artists; truth is where each prompt was put (core/testing/prompts). */
describe.each(['en', 'fr'] as const)('sentence starts, voice %s', (voice) => {
  const readings = prompts(voice, 30, 1.5);

  test.each([-65, -60, -55])('room noise at %d dBFS: median within 8 ms, 95 % within 25 ms', (noiseDbfs) => {
    const { audio, placed } = sessionOf(readings, noiseDbfs, 7);
    const speech = findSpeech(audio, promptRateHz);
    const errors = placed
      .map(({ from }) => Math.min(...speech.map((stretch) => Math.abs(stretch.from - from))))
      .map((frames) => (frames / promptRateHz) * 1000)
      .sort((a, b) => a - b);
    expect(percentile(errors, 0.5)).toBeLessThanOrEqual(8);
    expect(percentile(errors, 0.95)).toBeLessThanOrEqual(25);
    // The punch for a prompt stands in the pause before it.
    const sentences = sentencesOf(speech, promptRateHz);
    const inPause = placed.filter(({ from }, index) => {
      const punch = sentencePunch(sentences, from + 0.5 * promptRateHz, 0, promptRateHz);
      return punch < from && punch >= (placed[index - 1]?.to ?? 0);
    });
    expect(inPause.length / placed.length).toBeGreaterThan(0.95);
  });
});

describe('sentences', () => {
  const rate = 1000;
  const speech = [
    { from: 500, to: 1500 },
    { from: 1700, to: 2500 },
    { from: 3500, to: 4000 },
    { from: 5000, to: 6000 },
  ];
  const sentences = sentencesOf(speech, rate);

  test('a short pause does not end a sentence, a longer one does; punches stand in the pauses', () => {
    expect(sentences).toEqual([
      { from: 500, to: 2500, punch: 300 },
      { from: 3500, to: 4000, punch: 3300 },
      { from: 5000, to: 6000, punch: 4800 },
    ]);
    expect(sentencesOf([{ from: 100, to: 900 }], rate)[0].punch).toBe(50);
  });

  test('the sentence that is being read, and those before it', () => {
    expect(sentencePunch(sentences, 5500, 0, rate)).toBe(4800);
    expect(sentencePunch(sentences, 5500, 1, rate)).toBe(3300);
    expect(sentencePunch(sentences, 5500, 9, rate)).toBe(0);
    // A sentence that has just begun is not the one that went wrong.
    expect(sentencePunch(sentences, 5100, 0, rate)).toBe(3300);
    // In the pause after a sentence that one is meant.
    expect(sentencePunch(sentences, 4600, 0, rate)).toBe(3300);
  });

  test('where an abandoned sentence ends', () => {
    expect(sentenceEnd(sentences, 1600)).toBe(2500);
    expect(sentenceEnd(sentences, 3000)).toBe(3000);
    expect(sentenceEnd(sentences, 9000)).toBe(9000);
  });

  test('silence and steady noise hold no speech', () => {
    expect(findSpeech(new Float32Array(48_000), 48_000)).toEqual([]);
    expect(findSpeech(noise(480_000, -50, 3), 48_000)).toEqual([]);
    expect(findSpeech(new Float32Array(0), 48_000)).toEqual([]);
  });
});
