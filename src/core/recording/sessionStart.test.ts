import { adviseToMatch } from './advice';
import { defaultLevelChoice, profileOf } from './levelProfiles';
import { lastBefore, sayOfCheck, sessionSince } from './sessionStart';
import type { SoundCheck } from './soundCheck';
import { toneBandsHz } from './soundCheck';

const minute = 60_000;
const now = Date.UTC(2026, 10, 28, 9);

describe('when a session began', () => {
  it('began now where the last thing was done yesterday', () => {
    const moments = [now - 26 * 60 * minute, now - 20 * 60 * minute];
    expect(sessionSince(now, moments)).toBe(now);
    expect(lastBefore(now, moments)).toBe(now - 20 * 60 * minute);
  });

  it('goes on after a pause in which somebody ate a sandwich, in any order of its moments', () => {
    const moments = [now - 70 * minute, now - 25 * minute, now - 300 * minute, now - 50 * minute];
    const since = sessionSince(now, moments);
    expect(since).toBe(now - 70 * minute);
    expect(lastBefore(since, moments)).toBe(now - 300 * minute);
  });

  it('is the first where nothing was done', () => {
    expect(sessionSince(now, [])).toBe(now);
    expect(lastBefore(now, [])).toBeNull();
  });
});

describe('what a check of this session says', () => {
  const usual: SoundCheck = {
    roomDbfs: -66,
    hum: null,
    speechDbfs: -20,
    loudnessLufs: -20,
    usualPeakDbfs: -10,
    loudestPeakDbfs: -9,
    clippedSamples: 0,
    dcOffset: 0,
    speechToNoiseDb: 46,
    tone: toneBandsHz.map(() => -12),
  };
  const profile = profileOf(defaultLevelChoice, null);
  const weights = (check: SoundCheck, reference: SoundCheck | null) =>
    sayOfCheck(check, reference, profile).map(({ weight }) => weight);

  it('says one thing where it is as in the reference', () => {
    expect(sayOfCheck(usual, usual, profile)).toEqual(
      adviseToMatch({ speechDb: 0, roomDb: 0, tone: { db: 0, hertz: 0 } }),
    );
  });

  it('tells a voice that is softer than in the reference', () => {
    const [first] = sayOfCheck({ ...usual, speechDbfs: -25 }, usual, profile);
    expect(first.weight).toBe('better');
    expect(first.text).toContain('5 dB');
  });

  it('puts before it what has to change in any case, and judges by itself without a reference', () => {
    const clipped = { ...usual, clippedSamples: 12, speechDbfs: -12 };
    expect(weights(clipped, usual)[0]).toBe('must');
    expect(weights(clipped, usual)).toContain('better');
    expect(weights(usual, null)).not.toContain('must');
  });
});
