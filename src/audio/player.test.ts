import { Player } from './player';

/** As much of the Web Audio API as the player uses, with a clock that runs many times as fast as time. */
const sampleRate = 48_000;
const faster = 5;
interface Sounded {
  at: number;
  samples: Float32Array;
}
let sounded: Sounded[] = [];

class FakeContext {
  readonly sampleRate = sampleRate;
  readonly outputLatency = 0;
  private readonly started = performance.now();
  get currentTime() {
    return ((performance.now() - this.started) / 1000) * faster;
  }
}
class FakeBuffer {
  samples = new Float32Array(0);
  constructor(readonly options: { length: number }) {}
  copyToChannel(samples: Float32Array, channel: number) {
    if (channel === 0) this.samples = samples.slice();
  }
}
class FakeSource {
  onended = null;
  constructor(
    _context: unknown,
    private readonly options: { buffer: FakeBuffer },
  ) {}
  connect() {}
  stop() {}
  start(seconds: number) {
    sounded.push({ at: Math.round(seconds * sampleRate), samples: this.options.buffer.samples });
  }
}
/** Straight ramps of a gain: times and values in turn. */
let ramps: number[][] = [];
class FakeGain {
  private readonly told: number[] = [];
  gain = {
    setTargetAtTime: () => undefined,
    setValueAtTime: (value: number, time: number) => {
      this.told.push(time, value);
      ramps.push(this.told);
      return this.gain;
    },
    linearRampToValueAtTime: (value: number, time: number) => {
      this.told.push(time, value);
      return this.gain;
    },
  };
  connect() {}
  disconnect() {}
}
Object.assign(globalThis, { AudioBuffer: FakeBuffer, AudioBufferSourceNode: FakeSource, GainNode: FakeGain });

/** Heard audio whose samples are their own frame numbers. */
const numbered = async (from: number, frames: number) => [
  Float32Array.from({ length: frames }, (_, i) => from + i),
];
const playerOf = (
  range: { from: number; to: number },
  options = {},
  render = numbered,
  context = new FakeContext(),
) =>
  new Player(
    context as unknown as AudioContext,
    range,
    render,
    (error) => {
      throw error;
    },
    new FakeGain() as unknown as AudioNode,
    options,
  );

beforeEach(() => {
  sounded = [];
  ramps = [];
});

test('plays every frame of the range once, chunk after chunk without a gap', async () => {
  const player = playerOf({ from: 1000, to: 100_000 });
  await player.ended;
  expect(player.frame).toBe(100_000);
  let frame = 1000;
  sounded.forEach(({ at, samples }, index) => {
    if (index > 0) expect(at).toBe(sounded[index - 1].at + sounded[index - 1].samples.length);
    expect(samples.findIndex((value, i) => value !== frame + i)).toBe(-1);
    frame += samples.length;
  });
  expect(frame).toBe(100_000);
});

test('twice as fast it takes half the time, and tells heard frames all the same', async () => {
  const player = playerOf({ from: 0, to: 192_000 }, { speed: 2 });
  await player.ended;
  const frames = sounded.reduce((sum, { samples }) => sum + samples.length, 0);
  expect(Math.abs(frames - 96_000)).toBeLessThan(4000);
  expect(player.frame).toBe(192_000);
});

test('tells how long it is until its first frame is heard', async () => {
  const prepared: ((samples: Float32Array<ArrayBuffer>[]) => void)[] = [];
  const context = new FakeContext();
  const render = () => new Promise<Float32Array<ArrayBuffer>[]>((resolve) => prepared.push(resolve));
  const player = playerOf({ from: 0, to: 9600 }, {}, render, context);
  await new Promise((resolve) => setTimeout(resolve, 20));
  expect(player.waitSeconds).toBe(Infinity);
  prepared[0]([new Float32Array(9600)]);
  while (sounded.length === 0) await new Promise((resolve) => setTimeout(resolve, 0));
  const [now, wait] = [context.currentTime, player.waitSeconds];
  expect(wait).toBeGreaterThan(0);
  expect(Math.abs(now + wait - sounded[0].at / sampleRate)).toBeLessThan(0.01);
  while (player.frame === 0) await new Promise((resolve) => setTimeout(resolve, 1));
  expect(player.waitSeconds).toBe(0);
  await player.ended;
});

test('in a loop it begins again at the start, until it is stopped', async () => {
  const player = playerOf({ from: 500, to: 500 + 20_000 }, { loop: true });
  while (sounded.length < 6) await new Promise((resolve) => setTimeout(resolve, 5));
  expect(player.frame).toBeGreaterThanOrEqual(500);
  expect(player.frame).toBeLessThan(20_500);
  player.stop();
  await player.ended;
  const played = sounded.flatMap(({ samples }) => [...samples]);
  expect(played.findIndex((value, index) => value !== 500 + (index % 20_000))).toBe(-1);
});

test('stopped early it tells where it was', async () => {
  const player = playerOf({ from: 0, to: 10_000_000 });
  while (player.frame < 48_000) await new Promise((resolve) => setTimeout(resolve, 5));
  player.stop();
  const { frame } = player;
  await player.ended;
  expect(frame).toBeGreaterThanOrEqual(48_000);
  expect(frame).toBeLessThan(10_000_000);
});

describe('from a frame of the context on', () => {
  test('begins there and nowhere else', async () => {
    const player = playerOf({ from: 700, to: 60_700 }, { atFrame: 50_000 });
    expect(player.frame).toBe(700);
    await player.ended;
    expect(sounded[0].at).toBe(50_000);
    for (const { at, samples } of sounded) expect(at - samples[0]).toBe(50_000 - 700);
    expect(sounded.reduce((sum, { samples }) => sum + samples.length, 0)).toBe(60_000);
  });

  test('what comes too late is silent, and nothing after it shifts', async () => {
    const slowAt = 12_000;
    const slow = async (from: number, frames: number) => {
      if (from === slowAt) await new Promise((resolve) => setTimeout(resolve, 600));
      return numbered(from, frames);
    };
    const context = new FakeContext() as unknown as AudioContext;
    const player = new Player(
      context,
      { from: 0, to: 240_000 },
      slow,
      (error) => {
        throw error;
      },
      new FakeGain() as unknown as AudioNode,
      { atFrame: 4800 },
    );
    await player.ended;
    for (const { at, samples } of sounded) expect(at - samples[0]).toBe(4800);
    const heardFrames = sounded.reduce((sum, { samples }) => sum + samples.length, 0);
    expect(heardFrames).toBeLessThan(240_000);
    expect(sounded[sounded.length - 1].samples.at(-1)).toBe(239_999);
  });
});

describe('another sound while it plays', () => {
  const heard = async (from: number, frames: number) => [
    Float32Array.from({ length: frames }, (_, i) => -(from + i) - 1),
  ];

  test('goes on at the same frame, one fading as the other comes, to its end', async () => {
    const player = playerOf({ from: 1000, to: 400_000 });
    await new Promise((resolve) => setTimeout(resolve, 200));
    await player.change(heard);
    await player.ended;
    expect(player.frame).toBe(400_000);
    const old = sounded.filter(({ samples }) => samples[0] >= 0);
    const fresh = sounded.filter(({ samples }) => samples[0] < 0);
    expect(old.length).toBeGreaterThan(0);
    // The same frame of the part sounds at the same time in both.
    const origin = old[0].at - old[0].samples[0];
    fresh.forEach(({ at, samples }) => expect(at).toBe(origin + -samples[0] - 1));
    const frames = fresh.flatMap(({ samples }) => [...samples]).map((value) => -value - 1);
    expect(frames.findIndex((frame, index) => frame !== frames[0] + index)).toBe(-1);
    expect(frames[frames.length - 1]).toBe(399_999);
    const [coming, going] = ramps;
    expect([coming[1], coming[3], going[1], going[3]]).toEqual([0, 1, 1, 0]);
    expect(coming[0]).toBeCloseTo(fresh[0].at / sampleRate, 3);
    expect(coming[0]).toBe(going[0]);
    expect(coming[2] - coming[0]).toBeCloseTo(0.02, 6);
  });

  test('near the end, when all is scheduled, is played to the end as well', async () => {
    const player = playerOf({ from: 0, to: 48_000 });
    await new Promise((resolve) => setTimeout(resolve, 60));
    await player.change(heard);
    await player.ended;
    const last = sounded[sounded.length - 1].samples;
    expect(last[last.length - 1]).toBe(-48_000);
  });

  test('the last of several at once counts', async () => {
    const player = playerOf({ from: 0, to: 200_000 });
    await new Promise((resolve) => setTimeout(resolve, 100));
    const third = async (_: number, frames: number) => [new Float32Array(frames).fill(0.5)];
    void player.change(heard);
    await player.change(third);
    await player.ended;
    expect(sounded.some(({ samples }) => samples[0] < 0)).toBe(false);
    expect(sounded[sounded.length - 1].samples[0]).toBe(0.5);
  });
});
