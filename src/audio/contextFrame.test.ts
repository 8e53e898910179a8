import { contextFrame } from './contextFrame';

/** Frames of a render quantum: https://www.w3.org/TR/webaudio/#render-quantum-size */
const quantumFrames = 128;

test.each([44_100, 48_000, 88_200, 96_000])(
  'the clock of a context at %i Hz names the frame it stands at, through a day',
  (sampleRate) => {
    const wrong: number[] = [];
    for (let frame = 0; frame < 86_400 * sampleRate; frame += 997 * quantumFrames)
      if (contextFrame({ currentTime: frame / sampleRate, sampleRate }) !== frame) wrong.push(frame);
    expect(wrong).toEqual([]);
  },
);

test('a time ahead is counted from there', () => {
  expect(contextFrame({ currentTime: 128 / 44_100, sampleRate: 44_100 }, 0.15)).toBe(128 + 6615);
});
