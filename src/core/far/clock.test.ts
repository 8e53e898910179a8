import { seededRandom } from '../base/random';
import { ClockComparison, otherTime, ownTime } from './clock';

/** Two clocks of which the truth is known, over a line whose delays differ from message to message. */
function compared({
  minutes,
  offset,
  ppm,
  delayMs,
  jitterMs,
  loss = 0,
  seed = 1,
  back = delayMs,
  restMs = 0,
  backJitterMs = jitterMs,
}: {
  minutes: number;
  offset: number;
  ppm: number;
  delayMs: number;
  jitterMs: number;
  loss?: number;
  seed?: number;
  back?: number;
  restMs?: number;
  backJitterMs?: number;
}) {
  const random = seededRandom(seed);
  const truth = (own: number) => offset + own * (1 + ppm / 1e6);
  const comparison = new ClockComparison();
  for (let sent = 0; sent < minutes * 60; sent += 1) {
    const there = (delayMs + jitterMs * random()) / 1000;
    const again = (back + backJitterMs * random()) / 1000;
    if (random() < 1 - (1 - loss) ** 2) continue;
    const rest = restMs / 1000;
    comparison.add({
      sent,
      received: truth(sent + there),
      answered: truth(sent + there + rest),
      back: sent + there + rest + again,
    });
  }
  return { line: comparison.line(), comparison, truth };
}

const errorsMs = ({ line, truth }: ReturnType<typeof compared>, moments: readonly number[]) =>
  moments.map((own) => (line ? 1000 * Math.abs(otherTime(line, own) - truth(own)) : Infinity));

describe('comparing two clocks', () => {
  // An hour over a line of 200 ms with 50 ms of jitter and 5 % loss, clocks ten minutes apart, a crystal at
  // the end of what is usual (common practice: 50 ppm).
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('is right within 5 ms at both ends of an hour (%i)', (seed) => {
    const found = compared({
      minutes: 60,
      offset: 600,
      ppm: 50,
      delayMs: 200,
      jitterMs: 50,
      loss: 0.05,
      seed,
    });
    for (const error of errorsMs(found, [0, 1800, 3600])) expect(error).toBeLessThan(5);
    expect(Math.abs((found.line?.ppm ?? 0) - 50)).toBeLessThan(2);
  });

  it.each([1, 2, 3, 4])('is right within 5 ms over the first minutes, either way round (%i)', (seed) => {
    const found = compared({ minutes: 2, offset: -600, ppm: -80, delayMs: 40, jitterMs: 20, seed });
    for (const error of errorsMs(found, [0, 60, 120])) expect(error).toBeLessThan(5);
  });

  it('takes no slope from a few seconds, however they jitter', () => {
    const found = compared({ minutes: 0.3, offset: 3, ppm: 0, delayMs: 30, jitterMs: 60 });
    expect(found.line?.ppm).toBe(0);
    for (const error of errorsMs(found, [0, 18])) expect(error).toBeLessThan(20);
  });

  // Sides that share two busy cores: a take that lies well would be converted, and come out of step.
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('takes none from minutes of delays that tell nothing (%i)', (seed) => {
    const found = compared({ minutes: 2, offset: 3, ppm: 0, delayMs: 2, jitterMs: 40, seed });
    expect(found.line?.ppm).toBe(0);
  });

  // Pages open and devices start: one way falls from 30 ms to nothing, the other jitters.
  it.each([1, 2, 3, 4])('takes none from the first half minute, however clear it looks (%i)', (seed) => {
    const random = seededRandom(seed);
    const comparison = new ClockComparison();
    for (let sent = 0; sent < 40; sent++) {
      const there = sent + 0.03 * (1 - sent / 40);
      comparison.add({ sent, received: there, answered: there, back: there + 0.04 * random() });
    }
    expect(comparison.line()?.ppm).toBe(0);
  });

  it('takes none that one way shows and the other does not', () => {
    const comparison = new ClockComparison();
    // The way there takes longer and longer: a line that fills up.
    for (let sent = 0; sent < 120; sent++) {
      const there = sent + 0.02 + sent * 2e-4;
      comparison.add({ sent, received: there, answered: there, back: there + 0.02 });
    }
    expect(comparison.line()?.ppm).toBe(0);
  });

  it('goes by the fastest each way, where one of them jitters and the other does not', () => {
    const found = compared({ minutes: 10, offset: 5, ppm: 20, delayMs: 50, jitterMs: 150, backJitterMs: 0 });
    for (const error of errorsMs(found, [0, 300, 600])) expect(error).toBeLessThan(5);
  });

  it('does not count the time the other side takes to answer', () => {
    const found = compared({ minutes: 5, offset: 1, ppm: 10, delayMs: 30, jitterMs: 0, restMs: 700 });
    for (const error of errorsMs(found, [0, 150, 300])) expect(error).toBeLessThan(0.5);
  });

  it('is off by half of what the ways differ by, and says that it may be', () => {
    const found = compared({ minutes: 5, offset: 1, ppm: 0, delayMs: 30, back: 70, jitterMs: 0 });
    const [error] = errorsMs(found, [150]);
    expect(error).toBeCloseTo(20, 3);
    expect(found.line?.errorSeconds).toBeCloseTo(0.05, 6);
  });

  it('compares by what was heard around a stretch alone', () => {
    const comparison = new ClockComparison();
    // The other clock stood still for 5 s at second 100, as that of a laptop whose lid was closed.
    for (let sent = 0; sent < 200; sent++) {
      const other = sent < 100 ? sent : sent - 5;
      comparison.add({ sent, received: other + 0.02, answered: other + 0.02, back: sent + 0.04 });
    }
    const [before, after] = [comparison.line(0, 90), comparison.line(110, 200)];
    expect(before && otherTime(before, 50)).toBeCloseTo(50, 3);
    expect(after && otherTime(after, 150)).toBeCloseTo(145, 3);
    expect(comparison.line(300, 400)).toBeNull();
  });

  it('goes back the way it came', () => {
    const { line } = compared({ minutes: 10, offset: 600, ppm: 90, delayMs: 20, jitterMs: 5 });
    expect(line && ownTime(line, otherTime(line, 321))).toBeCloseTo(321, 9);
  });

  it('takes no answer that came before its question, and none that is no number', () => {
    const comparison = new ClockComparison();
    comparison.add({ sent: 10, received: 1, answered: 1, back: 9 });
    comparison.add({ sent: 10, received: NaN, answered: 1, back: 11 });
    comparison.add({ sent: 10, received: 5, answered: 4, back: 11 });
    expect(comparison.empty).toBe(true);
    expect(comparison.line()).toBeNull();
  });
});
