import { LevelColumnReader } from './levels';

describe('the level column', () => {
  const at60 = (seconds: number) => Array.from({ length: Math.round(seconds * 60) }, (_, i) => i / 60);
  const level = (peakDb: number, clipped = 0) => ({
    peak: 10 ** (peakDb / 20),
    meanSquare: 10 ** ((peakDb - 12) / 10),
    clipped,
  });

  test('holds a peak for 1.5 s', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    reader.read(0, level(-8));
    expect(reader.read(1.4, level(-40)).heldDb).toBeCloseTo(-8);
    expect(reader.read(1.6, level(-40)).heldDb).toBeCloseTo(-40);
  });

  test.each([
    [-70, 'Waiting'],
    [-25, 'Thin'],
    [-10, 'On target'],
    [-4, 'Hot'],
  ])('peaks at %d dBFS are “%s”', (peakDb, word) => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    expect(reader.read(0, level(peakDb)).word).toBe(word);
  });

  test('a muted microphone is told after 3 s, and forgotten with the first sound; a quiet room is no muted one', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    reader.read(0, level(-Infinity));
    expect(reader.read(2.9, level(-Infinity)).word).toBe('Waiting');
    expect(reader.read(3.1, level(-Infinity)).word).toBe('No signal');
    expect(reader.read(3.2, level(-70)).word).toBe('Waiting');
    expect(reader.read(9, level(-75)).word).toBe('Waiting');
  });

  test('a clip stays until it is cleared', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    reader.read(0, level(-1, 3));
    expect(reader.read(60, level(-20, 3))).toMatchObject({ clipped: 3, word: 'Clipped' });
    reader.clearClipped();
    expect(reader.read(61, level(-10, 3))).toMatchObject({ clipped: 0, word: 'On target' });
    expect(reader.read(62, level(-10, 5)).clipped).toBe(2);
  });

  test('tells usual speech from the room', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    let last = reader.read(0, null);
    for (const at of at60(20)) last = reader.read(at, level(Math.floor(at) % 3 === 0 ? -50 : -8));
    expect(last.roomDb).toBeCloseTo(-62, 0);
    expect(last.speechDb).toBeCloseTo(-20, 0);
  });

  test('a peak falls by 24 dB a second, and a louder one takes its place at once', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    expect(reader.read(0, level(-8)).peakDb).toBeCloseTo(-8);
    expect(reader.read(0.5, level(-60)).peakDb).toBeCloseTo(-20);
    expect(reader.read(1, null).peakDb).toBeCloseTo(-32);
    expect(reader.read(1.1, level(-30)).peakDb).toBeCloseTo(-30);
  });

  test('the word is about the loudest of the last four seconds; limits count as on target', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    reader.read(0, level(-4));
    expect(reader.read(3.9, level(-20)).word).toBe('Hot');
    expect(reader.read(4.1, level(-20)).word).toBe('Thin');
    expect(new LevelColumnReader({ min: -18, max: -6 }).read(0, level(-5.9999999)).word).toBe('Hot');
    const exact = (db: number) => {
      const one = new LevelColumnReader({ min: 20 * Math.log10(0.25), max: 20 * Math.log10(0.5) });
      return one.read(0, { ...level(0), peak: 10 ** (db / 20) }).word;
    };
    expect(exact(20 * Math.log10(0.5))).toBe('On target');
    expect(exact(20 * Math.log10(0.25))).toBe('On target');
    expect(exact(-50.1)).toBe('Waiting');
    expect(exact(-49.9)).toBe('Thin');
  });

  test('speech and room are those of the last half minute, and unknown before half a second', () => {
    const reader = new LevelColumnReader({ min: -18, max: -6 });
    let last = reader.read(0, null);
    for (const at of at60(0.4)) last = reader.read(at, level(-8));
    expect(last).toMatchObject({ roomDb: -Infinity, speechDb: -Infinity });
    for (const at of at60(5)) reader.read(1 + at, level(-40));
    for (const at of at60(31)) last = reader.read(6 + at, level(-60));
    expect(last.roomDb).toBeCloseTo(-72, 0);
    // Nobody has spoken since.
    expect(last.speechDb).toBe(-Infinity);
  });
});
