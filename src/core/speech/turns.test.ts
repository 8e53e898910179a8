import { seededRandom } from '../base/random';
import { seeds } from '../testing/seeds';
import { othersAlone, sharesOf, turnsOf } from './turns';

const speech = new Map([
  [
    'host',
    [
      { from: 0, to: 100 },
      { from: 120, to: 200 },
      { from: 900, to: 950 },
    ],
  ],
  [
    'guest',
    [
      { from: 180, to: 500 },
      { from: 560, to: 800 },
    ],
  ],
]);

test('a turn goes on through its own pauses until another voice begins', () => {
  expect(turnsOf(speech)).toEqual([
    { track: 'host', from: 0, to: 200 },
    { track: 'guest', from: 180, to: 800 },
    { track: 'host', from: 900, to: 950 },
  ]);
  expect(turnsOf(new Map())).toEqual([]);
});

test('shares are of what is said; all of them together are one', () => {
  const shares = sharesOf(speech, turnsOf(speech));
  expect(shares).toEqual([
    { track: 'host', frames: 230, share: 230 / 790, turns: 2 },
    { track: 'guest', frames: 560, share: 560 / 790, turns: 1 },
  ]);
});

test('the others are alone where the voice is silent, with room around what it says', () => {
  const own = [{ from: 300, to: 400 }];
  const others = [[{ from: 0, to: 1000 }], [{ from: 990, to: 1100 }]];
  expect(othersAlone(own, others, { before: 20, after: 30, shortest: 50 })).toEqual([
    { from: 0, to: 280 },
    { from: 430, to: 1100 },
  ]);
  expect(othersAlone(own, others, { before: 260, after: 30, shortest: 50 })).toEqual([
    { from: 430, to: 1100 },
  ]);
  expect(othersAlone([{ from: 0, to: 2000 }], others, { before: 0, after: 0, shortest: 1 })).toEqual([]);
});

test.each(seeds(20))('seed %i: against every frame looked at by itself', (seed) => {
  const random = seededRandom(seed);
  const stretches = () => {
    const list = [];
    for (let at = Math.floor(random() * 40); at < 900;) {
      const to = at + 5 + Math.floor(random() * 80);
      list.push({ from: at, to });
      at = to + 3 + Math.floor(random() * 60);
    }
    return list;
  };
  const own = stretches();
  const others = [stretches(), stretches()];
  const margins = { before: 12, after: 7, shortest: 1 };
  const inside = (list: { from: number; to: number }[], frame: number, before = 0, after = 0) =>
    list.some(({ from, to }) => frame >= from - before && frame < to + after);
  const alone = othersAlone(own, others, margins);
  for (let frame = 0; frame < 1100; frame++) {
    const truth = others.some((other) => inside(other, frame)) && !inside(own, frame, 12, 7);
    if (inside(alone, frame) !== truth) throw new Error(`frame ${frame}`);
  }
});
