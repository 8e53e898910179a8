import {
  audioFrameOf,
  frameOfTimecode,
  framesOfDay,
  pictureFrameAt,
  rateNames,
  rates,
  timecodeOf,
} from './timecode';

const two = (value: number) => (value < 10 ? `0${value}` : `${value}`);

/**
 * Counts a day as a clock with frames would, second by second, without the numbers that are left out; gives
 * the first two numbers of each second and its last one with how many frames were before them.
 */
function* countedDay(count: number, dropped: number): Generator<[timecode: string, frame: number]> {
  const mark = dropped > 0 ? ';' : ':';
  let before = 0;
  for (let second = 0; second < 86_400; second++) {
    const minute = Math.floor(second / 60);
    const left = dropped > 0 && second % 60 === 0 && minute % 10 !== 0 ? dropped : 0;
    const clock = [Math.floor(minute / 60), minute % 60, second % 60].map(two).join(':');
    for (const number of [left, left + 1, count - 1])
      yield [`${clock}${mark}${two(number)}`, before + number - left];
    before += count - left;
  }
  yield ['end', before];
}

/** SMPTE ST 12-1 (values from the standard's text as handbooks give them). */
test('a day of 29.97 drop-frame has 2,589,408 frames, an hour 107,892, ten minutes 17,982', () => {
  const drop = rates['29.97 drop'];
  expect(framesOfDay(drop)).toBe(2_589_408);
  expect(frameOfTimecode('01:00:00;00', drop)).toEqual({ frame: 107_892 });
  expect(frameOfTimecode('00:10:00;00', drop)).toEqual({ frame: 17_982 });
  expect(frameOfTimecode('00:01:00;02', drop)).toEqual({ frame: 1800 });
  expect(timecodeOf(1799, drop)).toBe('00:00:59;29');
  expect(timecodeOf(1800, drop)).toBe('00:01:00;02');
});

test.each(rateNames)('at %s the numbers of a day is told and read as an independent count has it', (name) => {
  const rate = rates[name];
  let wrong = '';
  for (const [wanted, frame] of countedDay(rate.count, rate.dropped)) {
    if (wanted === 'end') {
      expect(frame).toBe(framesOfDay(rate));
      break;
    }
    // Where none are dropped one second is like another: all frames of an hour, then the first and the last.
    const within = frame % rate.count;
    if (rate.dropped === 0 && frame > 3600 * rate.count && within > 0 && within < rate.count - 1) continue;
    if (timecodeOf(frame, rate) !== wanted) wrong ||= `${frame} is ${wanted}`;
    const read = frameOfTimecode(wanted, rate);
    if (!('frame' in read) || read.frame !== frame) wrong ||= `${wanted} is read otherwise`;
  }
  expect(wrong).toBe('');
});

test.each(rateNames.flatMap((name) => [44_100, 48_000].map((rateHz) => ({ name, rateHz }))))(
  'at $name nothing drifts in a day of $rateHz Hz',
  ({ name, rateHz }) => {
    const rate = rates[name];
    const [num, den] = [BigInt(rate.num), BigInt(rate.den) * BigInt(rateHz)];
    let worst = 0;
    for (let frame = 0; frame < framesOfDay(rate); frame += 1 + (frame % 89)) {
      const at = audioFrameOf(frame, rate, rateHz);
      // Twice the distance from the exact place, in parts of `num`: no more than half a frame of audio.
      const off = 2n * (BigInt(at) * num - BigInt(frame) * den);
      worst = Math.max(worst, Number(off < 0n ? -off : off) / rate.num);
      if (pictureFrameAt(at, rate, rateHz) !== frame) throw new Error(`${frame} is not seen where it begins`);
      if (frame > 0 && pictureFrameAt(at - 2, rate, rateHz) !== frame - 1)
        throw new Error(`${frame} begins early`);
    }
    expect(worst).toBeLessThanOrEqual(1);
  },
);

test('a day of drop-frame lasts a day but for 86 ms (29.97: *common practice*)', () => {
  const drop = rates['29.97 drop'];
  expect(audioFrameOf(framesOfDay(drop), drop, 48_000) / 48_000 - 86_400).toBeCloseTo(-0.0864, 3);
});

test.each([
  ['', '24', /no timecode/],
  ['12.5', '24', /no timecode/],
  ['24:00:00:00', '24', /no time/],
  ['00:60:00:00', '24', /no time/],
  ['00:00:00:25', '25', /frame 25, but at 25 they end with 24/],
  ['00:01:00;00', '29.97 drop', /does not exist in drop-frame/],
  ['00:01:00;01', '29.97 drop', /does not exist/],
  ['00:01:00;03', '59.94 drop', /does not exist/],
  ['too long to be told in full', '24', /…” is no timecode/],
] as const)('“%s” at %s is refused with the reason', (text, name, reason) => {
  const read = frameOfTimecode(text, rates[name]);
  expect('fault' in read && read.fault).toMatch(reason);
});

test('what exists in drop-frame is read: every tenth minute has all its numbers', () => {
  expect(frameOfTimecode('00:10:00;00', rates['29.97 drop'])).toHaveProperty('frame');
  expect(frameOfTimecode('00:01:00;04', rates['59.94 drop'])).toHaveProperty('frame');
  // A colon is read as well: many lists have it everywhere.
  expect(frameOfTimecode('00:10:00:00', rates['29.97 drop'])).toEqual({ frame: 17_982 });
});
