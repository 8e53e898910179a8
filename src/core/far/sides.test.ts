import { seededRandom } from '../base/random';
import { blockFrames } from '../base/audio';
import { FarLine, farRateHz } from '../testing/farLine';
import { otherTime } from './clock';
import { otherVersion, StudioSide } from './studioSide';
import { fairWeather, type Weather } from './simulatedLine';

const seconds = 1000;

/** What was recorded stands at the studio, every sample of it; nothing else does. */
function expectAll(line: FarLine) {
  for (const { id } of line.begun) {
    const [arrived, recorded] = [line.arrived(id), line.recorded(id)];
    expect(arrived.length).toBe(recorded.length);
    expect(Buffer.from(arrived.buffer).equals(Buffer.from(recorded.buffer))).toBe(true);
  }
  expect(line.studioDisk.recordings.size).toBe(line.begun.length);
}

const recordedSeconds = (line: FarLine, index: number) =>
  line.recorded(line.begun[index].id).length / farRateHz;

describe('both ends of a line', () => {
  it('record a take on both sides, and all of it arrives', () => {
    const line = new FarLine({ weather: fairWeather, seed: 1, offsetSeconds: 600 });
    line.run(3 * seconds);
    const take = line.want();
    line.run(20 * seconds);
    expect(take && line.studio?.progress(take)).toMatchObject({ whole: false });
    // It is sent while it is recorded: only the block that is not full yet is missing.
    expect(line.arrived(line.begun[0].id).length).toBeGreaterThan(15 * farRateHz);
    if (take) line.endTake(take);
    line.run(3 * seconds);
    expect(take && line.studio?.progress(take)).toMatchObject({ whole: true });
    // It ends where the end is heard of: the world of this test moves in steps of 50 ms.
    expect(Math.abs(recordedSeconds(line, 0) - 20)).toBeLessThanOrEqual(0.1);
    expect(line.talent?.unsent).toEqual([]);
    expectAll(line);
  });

  it('place a take by their clocks, ten minutes apart, over a bad line, within 5 ms', () => {
    const weather = { ...fairWeather, delayMs: 200, jitterMs: 50, loss: 0.05 };
    const line = new FarLine({ weather, seed: 2, offsetSeconds: -600, ppm: 60 });
    line.run(120 * seconds);
    const take = line.want();
    const wantedAt = line.ms;
    line.run(60 * seconds);
    if (take) line.endTake(take);
    expect(line.settle(60 * seconds)).toBe(true);
    const { startsAt, clock } = [...line.studioDisk.recordings.values()][0];
    expect(Math.abs(startsAt - line.talentSeconds(wantedAt))).toBeLessThan(0.005);
    expect(clock && Math.abs(otherTime(clock, startsAt) - wantedAt / 1000)).toBeLessThan(0.005);
    expectAll(line);
  });

  it('go on recording when the line is cut for five minutes in a take; nothing is missing', () => {
    const weather = { ...fairWeather, cuts: [[20 * seconds, 320 * seconds]] as const };
    const line = new FarLine({ weather, seed: 3, offsetSeconds: 600, ppm: -40 });
    line.run(10 * seconds);
    const take = line.want();
    line.run(350 * seconds);
    if (take) line.endTake(take);
    expect(line.settle(60 * seconds)).toBe(true);
    expect(line.begun).toHaveLength(1);
    expect(recordedSeconds(line, 0)).toBeCloseTo(350, 0);
    expectAll(line);
  });

  it('let a take end that the studio ended while the line was cut, and record none that is long over', () => {
    const weather = { ...fairWeather, cuts: [[20 * seconds, 60 * seconds]] as const };
    const line = new FarLine({ weather, seed: 4 });
    line.run(10 * seconds);
    const first = line.want();
    line.run(20 * seconds);
    if (first) line.endTake(first);
    line.run(5 * seconds);
    const second = line.want();
    line.run(5 * seconds);
    if (second) line.endTake(second);
    expect(line.settle(60 * seconds)).toBe(true);
    // The first one was recorded until the talent heard of its end; the second was never heard of.
    expect(line.begun.map(({ take }) => take)).toEqual([first]);
    expectAll(line);
  });

  it('record on under the same take after the talent has been killed in it', () => {
    const line = new FarLine({ weather: fairWeather, seed: 5 });
    line.run(5 * seconds);
    const take = line.want();
    line.run(20 * seconds);
    line.killTalent();
    line.run(4 * seconds);
    line.openTalent();
    line.run(20 * seconds);
    if (take) line.endTake(take);
    expect(line.settle(60 * seconds)).toBe(true);
    expect(line.begun.map((one) => one.take)).toEqual([take, take]);
    // A killed browser loses what did not fill its last block.
    expect(recordedSeconds(line, 0)).toBeGreaterThan(20 - blockFrames / farRateHz);
    expectAll(line);
  });

  it('bring everything after the studio was killed in a take, which its talent goes on recording until told', () => {
    const line = new FarLine({ weather: fairWeather, seed: 6, offsetSeconds: 50 });
    line.run(5 * seconds);
    line.want();
    line.run(20 * seconds);
    line.killStudio();
    line.run(30 * seconds);
    line.openStudio();
    expect(line.settle(60 * seconds)).toBe(true);
    expect(recordedSeconds(line, 0)).toBeGreaterThan(48);
    expectAll(line);
    // The clock that was compared is that of the studio that died.
    const [{ studioLife, clock, startsAt }] = [...line.studioDisk.recordings.values()];
    expect(studioLife).toBe([...line.studioDisk.takes.values()][0].life);
    expect(clock && otherTime(clock, startsAt)).toBeCloseTo(5, 2);
  });

  it('take up a day later what was left', () => {
    const line = new FarLine({ weather: fairWeather, seed: 7 });
    line.run(5 * seconds);
    line.want();
    line.run(30 * seconds);
    line.killStudio();
    line.killTalent();
    line.ms += 86_400 * seconds;
    expect(line.settle(60 * seconds)).toBe(true);
    expect(recordedSeconds(line, 0)).toBeGreaterThan(27);
    expectAll(line);
  });

  it('tell each other when they speak different versions', () => {
    const line = new FarLine({ weather: fairWeather, seed: 9 });
    const said: string[] = [];
    const studio = new StudioSide(line.ids(), {
      send: (message) => said.push(message.kind === 'bye' ? message.reason : message.kind),
      store: () => undefined,
      note: () => undefined,
      whole: () => undefined,
      hear: () => undefined,
    });
    studio.connect();
    const hello = { kind: 'hello', key: line.ids(), name: '', life: line.ids(), rateHz: 48_000 } as const;
    studio.receive({ ...hello, version: 1, input: '', granted: '', consentAt: 0 }, 0, 0);
    expect(said).toEqual([]);
    studio.receive({ ...hello, version: 2, input: '', granted: '', consentAt: 0 }, 0, 0);
    expect(said).toEqual([otherVersion]);
  });

  it('let nothing in that was not asked for, and no recording that shrinks or changes', () => {
    const line = new FarLine({ weather: fairWeather, seed: 10 });
    const stored: number[] = [];
    const noted: number[] = [];
    const studio = new StudioSide(line.ids(), {
      send: () => undefined,
      store: ({ index }) => stored.push(index),
      note: ({ frames }) => noted.push(frames),
      whole: () => undefined,
      hear: () => undefined,
    });
    const take = line.ids();
    const recording = {
      id: line.ids(),
      take,
      rateHz: 8000,
      channels: 1,
      frames: 20_000,
      closed: false,
      startsAt: 0,
      life: take,
      clock: null,
      studioLife: null,
    };
    const announce = (changes: Partial<typeof recording>) =>
      studio.receive({ kind: 'recordings', recordings: [{ ...recording, ...changes }] }, 0, 0);
    const block = (index: number, frames = blockFrames, id = recording.id) =>
      studio.receiveBlock({ recording: id, index, audio: [new Float32Array(frames)] });
    announce({});
    block(0);
    expect([noted, stored]).toEqual([[], []]);
    studio.want({ id: take, name: 'Take', from: 0 });
    announce({});
    announce({ frames: 10_000 });
    announce({ rateHz: 48_000, frames: 30_000 });
    expect(noted).toEqual([20_000]);
    block(0);
    block(1, 3616);
    block(0, blockFrames, take);
    expect(stored).toEqual([0]);
    announce({ closed: true });
    block(1, 3616);
    expect(stored).toEqual([0, 1]);
  });

  it('send a block again only where it was lost', () => {
    const fair = new FarLine({ weather: { ...fairWeather, delayMs: 150 }, seed: 8 });
    fair.run(5 * seconds);
    fair.want();
    fair.run(60 * seconds);
    expect(fair.settle(30 * seconds)).toBe(true);
    expect(fair.sentBlocks).toBe(Math.ceil(fair.recorded(fair.begun[0].id).length / blockFrames));
  });
});

/** Weather, kills and takes as they come; whoever was killed is opened again some seconds later. */
function misfortune(seed: number): FarLine {
  const random = seededRandom(seed);
  const cut = random() * 40 * seconds;
  const weather: Weather = {
    delayMs: 10 + 200 * random(),
    jitterMs: 200 * random() ** 2,
    loss: 0.2 * random() ** 2,
    doubling: 0.1 * random(),
    cuts: random() < 0.5 ? [[cut, cut + 20 * seconds * random()]] : [],
    inOrder: random() < 0.5,
  };
  const line = new FarLine({
    weather,
    seed,
    offsetSeconds: 1200 * random() - 600,
    ppm: 200 * random() - 100,
  });
  // At any message somebody may die.
  const deaths = new Set(Array.from({ length: 3 }, () => 1 + Math.floor(random() * 400)));
  line.onMessage = (count) => {
    if (!deaths.has(count)) return;
    const who = random();
    if (who < 0.6) line.killTalent();
    if (who > 0.4) line.killStudio();
  };
  let take: string | null = null;
  for (let step = 0; step < 12; step++) {
    line.run(1000 + 5000 * random());
    if (take) line.endTake(take);
    take = random() < 0.7 ? line.want() : null;
    if (random() < 0.6) line.openTalent();
    if (random() < 0.6) line.openStudio();
  }
  line.onMessage = () => undefined;
  return line;
}

describe('whatever goes wrong', () => {
  const seeds = Array.from({ length: 200 }, (_, i) => i + 1);
  let recorded = 0;
  it.each(seeds)('what stands at the studio is what was recorded, to the sample (%i)', (seed) => {
    const line = misfortune(seed);
    expect(line.settle(300 * seconds)).toBe(true);
    recorded += line.begun.length;
    expectAll(line);
  });
  it('has recorded something most of the time', () => expect(recorded).toBeGreaterThan(400));
});
