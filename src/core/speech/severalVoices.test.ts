import { ownSpeech, together, type VoicedSpeech } from './severalVoices';

const said = (from: number, to: number, levelDbfs: number): VoicedSpeech => ({ from, to, levelDbfs });

describe('what a microphone hears of a neighbour', () => {
  /** Ada speaks from 0 to 100, Carl from 150 to 250; each is heard by the other's microphone. */
  const heardThere = (bleedDb: number) => [
    [said(0, 100, -20), said(150, 250, -20 - bleedDb)],
    [said(2, 98, -20 - bleedDb), said(150, 250, -20)],
  ];

  test('three times as far away, 9.5 dB softer (inverse distance law), is no speech of its own', () => {
    const bleedDb = 20 * Math.log10(3);
    expect(ownSpeech(heardThere(bleedDb))).toEqual([[said(0, 100, -20)], [said(150, 250, -20)]]);
  });

  test('twice as far away, 6 dB softer, may be somebody who speaks softly', () => {
    expect(ownSpeech(heardThere(20 * Math.log10(2)))).toEqual(heardThere(20 * Math.log10(2)));
  });

  test('an answer that only begins while the other still speaks is one', () => {
    const answer = said(70, 130, -35);
    expect(ownSpeech([[said(0, 100, -20)], [answer]])[1]).toEqual([answer]);
    // Four fifths of it under the other's voice, and nobody could tell it from bleed.
    const short = said(70, 106, -35);
    expect(ownSpeech([[said(0, 100, -20)], [short]])[1]).toEqual([]);
  });

  test('several loud stretches count once where they overlap, and a long one from far back is not forgotten', () => {
    const soft = said(500, 600, -40);
    expect(ownSpeech([[soft], [said(480, 550, -20)], [said(490, 545, -20)]])[0]).toEqual([soft]);
    const many = [said(0, 1000, -20), ...Array.from({ length: 40 }, (_, i) => said(i * 10, i * 10 + 5, -60))];
    expect(ownSpeech([[soft], many])[0]).toEqual([]);
  });

  test('nobody is left out where all are as loud', () => {
    const loud = [[said(0, 100, -20)], [said(0, 100, -22)], [said(0, 100, -25)]];
    expect(ownSpeech(loud)).toEqual(loud);
  });
});

test('somebody speaks from the first to begin to the last to end', () => {
  expect(
    together([
      [
        { from: 10, to: 20 },
        { from: 50, to: 60 },
      ],
      [{ from: 20, to: 30 }],
      [{ from: 12, to: 15 }],
    ]),
  ).toEqual([
    { from: 10, to: 30 },
    { from: 50, to: 60 },
  ]);
  expect(together([[], []])).toEqual([]);
});
