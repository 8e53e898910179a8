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
class FakeGain {
  gain = { setTargetAtTime: () => undefined };
  connect() {}
  disconnect() {}
}
Object.assign(globalThis, { AudioBuffer: FakeBuffer, AudioBufferSourceNode: FakeSource, GainNode: FakeGain });

/** Heard audio whose samples are their own frame numbers. */
const numbered = async (from: number, frames: number) => [
  Float32Array.from({ length: frames }, (_, i) => from + i),
];
const playerOf = (range: { from: number; to: number }, options = {}) =>
  new Player(
    new FakeContext() as unknown as AudioContext,
    range,
    numbered,
    (error) => {
      throw error;
    },
    new FakeGain() as unknown as AudioNode,
    options,
  );

beforeEach(() => {
  sounded = [];
});

test('plays every frame of the range once, chunk after chunk without a gap', async () => {
  const player = playerOf({ from: 1000, to: 100_000 });
  await player.ended;
  expect(player.frame).toBe(100_000);
  let frame = 1000;
  sounded.forEach(({ at, samples }, index) => {
    if (index > 0) expect(at).toBe(sounded[index - 1].at + sounded[index - 1].samples.length);
    samples.forEach((value) => expect(value).toBe(frame++));
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

test('in a loop it begins again at the start, until it is stopped', async () => {
  const player = playerOf({ from: 500, to: 500 + 20_000 }, { loop: true });
  while (sounded.length < 6) await new Promise((resolve) => setTimeout(resolve, 5));
  expect(player.frame).toBeGreaterThanOrEqual(500);
  expect(player.frame).toBeLessThan(20_500);
  player.stop();
  await player.ended;
  const played = sounded.flatMap(({ samples }) => [...samples]);
  played.forEach((value, index) => expect(value).toBe(500 + (index % 20_000)));
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
