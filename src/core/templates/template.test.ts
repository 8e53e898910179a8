import type { Bed, Strip } from '../timeline/mix';
import { bedsWithoutSound, mixToBeginWith } from './beginning';
import { builtInTemplates } from './builtIn';
import { furtherOf, nextNumber, partName, readTemplate, templateFromJson, templateToJson } from './template';

describe('templates', () => {
  test.each(builtInTemplates.map((template) => [template.name, template] as const))(
    '“%s” is the same after it was written and read',
    (_name, template) => {
      const read = templateFromJson(templateToJson(template));
      const plain = (value: unknown) =>
        JSON.parse(JSON.stringify(value), (key, inside: unknown) =>
          key === 'id' ? undefined : inside,
        ) as unknown;
      expect(plain(read)).toEqual(plain(readTemplate(template)));
      expect(read.tracks.map(({ chain }) => chain?.steps.length)).toEqual(
        template.tracks.map(({ chain }) => chain?.steps.length),
      );
    },
  );

  const [plain] = builtInTemplates;
  const changed = (changes: object) =>
    JSON.stringify({ ...(JSON.parse(templateToJson(plain)) as object), ...changes });
  test.each([
    ['no JSON', '{', /not JSON/],
    ['something else', '{"parolaSpec":1}', /no field “parolaTemplate”/],
    ['a newer version', changed({ parolaTemplate: 2 }), /newer version/],
    ['no parts', changed({ parts: [] }), /at least one part/],
    ['no tracks', changed({ tracks: [] }), /at least one track/],
    ['another rate', changed({ rateHz: 12_345 }), /rateHz is one of/],
    ['a part without a name', changed({ parts: [''] }), /A part has no name/],
    ['a number for a list', changed({ tracks: 7 }), /cannot be used/],
    ['an input that there is not', changed({ tracks: [{ name: 'A', channel: 99, armed: true }] }), /channel/],
    ['a bed louder than there is', changed({ beds: [{ name: 'A', levelDb: 30, place: 0 }] }), /levelDb/],
    [
      'a bed that never comes up again',
      changed({
        beds: [
          {
            name: 'A',
            levelDb: 0,
            place: 0,
            ducking: { amountDb: 12, downSeconds: 1, waitSeconds: 1, upSeconds: 100 },
          },
        ],
      }),
      /upSeconds/,
    ],
    [
      'a step that there is not',
      changed({
        tracks: [
          { name: 'A', channel: 0, armed: true, chain: { name: '', steps: [{ kind: 'magic', on: true }] } },
        ],
      }),
      /cannot be used/,
    ],
  ])('%s is refused, with what is wrong', (_what, text, told) => {
    expect(() => templateFromJson(text)).toThrow(told);
  });
});

describe('beds that wait for their sound', () => {
  const ducking = { amountDb: 9, downSeconds: 0.4, waitSeconds: 1, upSeconds: 2 };
  const points = [{ at: 10, db: -9, passage: 0 }] as unknown as Strip['points'];
  const clip = { id: 'c', source: 's', from: 0, length: 100 } as unknown as Bed['clips'][number];
  const mix = {
    strips: [
      { id: 'track-1', levelDb: 2, place: 0, points: [] },
      { id: 'b1', levelDb: -14, place: 0.5, points, ducking },
    ],
    beds: [
      { id: 'b1', name: 'Theme', clips: [clip] },
      { id: 'b2', name: 'Rain', clips: [] },
    ],
  };

  test('are those of a part, with level, place and ducking, but without sounds and points', () => {
    const beds = bedsWithoutSound(mix);
    expect(beds).toEqual([
      { name: 'Theme', levelDb: -14, place: 0.5, ducking },
      { name: 'Rain', levelDb: 0, place: 0 },
    ]);
    let next = 0;
    expect(mixToBeginWith([{ id: 'track-1' }], beds, () => `new-${++next}`)).toEqual({
      strips: [
        { id: 'new-1', levelDb: -14, place: 0.5, points: [], ducking },
        { id: 'new-2', levelDb: 0, place: 0, points: [] },
      ],
      beds: [
        { id: 'new-1', name: 'Theme', clips: [] },
        { id: 'new-2', name: 'Rain', clips: [] },
      ],
    });
  });

  test('without chains and beds a part begins with nothing', () => {
    expect(bedsWithoutSound(undefined)).toEqual([]);
    expect(mixToBeginWith([{ id: 'track-1' }], [], () => 'new')).toBeUndefined();
  });

  test('a template file of before has none', () => {
    const { beds: _, ...before } = JSON.parse(templateToJson(builtInTemplates[1])) as Record<string, unknown>;
    expect(templateFromJson(JSON.stringify(before)).beds).toEqual([]);
    expect(builtInTemplates[1].beds).toHaveLength(1);
  });
});

describe('names of further parts', () => {
  test.each([
    [['Opening credits', 'Chapter 1', 'Chapter 2', 'Closing credits'], 'Chapter {n}', 'Chapter 3'],
    [['Stop 7 – The lamp'], 'Stop {n} – The lamp', 'Stop 8 – The lamp'],
    [['Prologue'], 'Part {n}', 'Part 2'],
    [['S2E09'], 'S2E{n}', 'S2E10'],
    [[], 'Part {n}', 'Part 1'],
  ])('after %j they are “%s”, and the next is “%s”', (names, further, next) => {
    expect(furtherOf(names)).toBe(further);
    expect(partName(further, nextNumber(further, names))).toBe(next);
  });

  test('a name without a place for the number has it at its end', () => {
    expect(partName('Reel', 3)).toBe('Reel 3');
    expect(nextNumber('Reel', ['Reel 1', 'Reel 4'])).toBe(5);
  });
});
