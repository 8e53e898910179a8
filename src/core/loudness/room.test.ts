import { measureRoom } from './room';

/** Hops of 10 ms at these levels in dBFS, each for so many hops. */
const hopsOf = (...stretches: [db: number, hops: number][]) =>
  Float64Array.from(stretches.flatMap(([db, hops]) => Array<number>(hops).fill(10 ** (db / 10))));

test('head, tail, pauses, level of the room and of the speech', () => {
  const room = measureRoom(
    hopsOf(
      [-62, 70],
      [-20, 200],
      [-62, 40],
      [-20, 100],
      [-62, 90],
      [-20, 100],
      [-62, 60],
      [-20, 50],
      [-62, 150],
    ),
  );
  expect(room).toEqual({
    headHops: 70,
    tailHops: 150,
    noiseFloorDbfs: expect.closeTo(-62, 6) as number,
    speechDbfs: expect.closeTo(-20, 6) as number,
    longestPause: { from: 410, to: 500 },
    usualPauseHops: 60,
    digitalSilenceHops: 0,
  });
});

test('gaps under 0.3 s are inside words, and one loud hop alone is no speech', () => {
  const room = measureRoom(hopsOf([-62, 50], [-20, 100], [-62, 29], [-20, 100], [-62, 100]));
  expect(room.usualPauseHops).toBe(0);
  expect(room.longestPause).toEqual({ from: 150, to: 179 });
  const clicked = measureRoom(
    hopsOf([-62, 50], [-20, 1], [-62, 49], [-20, 100], [-62, 60], [-20, 1], [-62, 39]),
  );
  expect([clicked.headHops, clicked.tailHops]).toEqual([100, 100]);
});

test('speech is what is 10 dB over the room, and never under −60 dBFS', () => {
  expect(measureRoom(hopsOf([-62, 100], [-53, 100], [-20, 100], [-62, 100])).headHops).toBe(200);
  expect(measureRoom(hopsOf([-62, 100], [-51, 100], [-20, 100], [-62, 100])).headHops).toBe(100);
  expect(measureRoom(hopsOf([-90, 100], [-61, 100], [-20, 100], [-90, 100])).headHops).toBe(200);
  expect(measureRoom(hopsOf([-90, 100], [-59, 100], [-20, 100], [-90, 100])).headHops).toBe(100);
});

test('digital silence is counted apart and is not the room', () => {
  const room = measureRoom(hopsOf([-62, 100], [-20, 100], [-130, 50], [-20, 100], [-62, 100]));
  expect(room.digitalSilenceHops).toBe(50);
  expect(room.noiseFloorDbfs).toBeCloseTo(-62, 6);
  const silent = measureRoom(new Float64Array(300));
  expect(silent).toMatchObject({
    noiseFloorDbfs: -Infinity,
    headHops: 0,
    tailHops: 0,
    digitalSilenceHops: 300,
  });
  expect(silent.speechDbfs).toBe(-Infinity);
});

test('without contrast nobody speaks: one long pause at that level', () => {
  const steady = measureRoom(hopsOf([-40, 300]));
  expect(steady).toMatchObject({ headHops: 0, tailHops: 0, speechDbfs: -Infinity, usualPauseHops: 0 });
  expect(steady.noiseFloorDbfs).toBeCloseTo(-40, 6);
  // Pauses too short to tell the room by: the quietest tenth of a second is it.
  const words = Array.from({ length: 6 }, (): [number, number][] => [
    [-20, 20],
    [-60, 12],
  ]).flat();
  expect(measureRoom(hopsOf(...words)).noiseFloorDbfs).toBeCloseTo(-60, 6);
  expect(measureRoom(new Float64Array(0))).toMatchObject({ headHops: 0, tailHops: 0 });
});

test('speech up to the very end or from the very start leaves no tail and no head', () => {
  const room = measureRoom(hopsOf([-20, 100], [-62, 100], [-20, 100]));
  expect([room.headHops, room.tailHops]).toEqual([0, 0]);
  expect(room.longestPause).toEqual({ from: 100, to: 200 });
});
