import { formatBytes, formatDb, formatTime } from './units';

describe('what the screen shows', () => {
  test.each([
    [0, '00:00', '00:00.000'],
    [59.9996, '00:59', '01:00.000'],
    [3725.25, '1:02:05', '1:02:05.250'],
    [-3, '00:00', '00:00.000'],
  ])('%d s', (seconds, short, long) => {
    expect(formatTime(seconds)).toBe(short);
    expect(formatTime(seconds, true)).toBe(long);
  });

  test('levels and sizes', () => {
    expect(formatDb(-18.04)).toBe('−18.0 dB');
    expect(formatDb(-Infinity, 'LUFS')).toBe('−∞');
    expect(formatDb(-0.04)).toBe('0.0 dB');
    expect(formatBytes(999)).toBe('999 B');
    expect(formatBytes(14_200_000)).toBe('14.2 MB');
    expect(formatBytes(4.2e9)).toBe('4.2 GB');
  });
});
