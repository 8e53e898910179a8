import { readFileSync } from 'node:fs';
import { seededRandom } from '../base/random';
import { builtInChains, fitted } from './builtIn';
import { chainFromJson, chainToJson, readChain, type SavedChain } from './chainFile';
import { chainJsonSchema } from './chainJsonSchema';
import type { ChainStep } from './chain';
import { settings, usualOrder, usualStep, type Setting } from './settings';
import { describeStep, stepNames, tradeNames } from './stepText';

const all: SavedChain = {
  name: 'Everything',
  note: 'one of each',
  steps: usualOrder.map((kind, index) => usualStep(kind, `step-${index + 1}`)),
};
const withFields = (kind: string, fields: object) =>
  JSON.stringify({
    parolaChain: 1,
    steps: [
      { ...usualStep('rumble', ''), ...(kind === 'rumble' ? {} : usualStep(kind as never, '')), ...fields },
    ],
  });

describe('chain files', () => {
  test('go out and come back the same', () => {
    expect(chainFromJson(chainToJson(all))).toEqual(all);
    for (const chain of builtInChains)
      expect(chainFromJson(chainToJson(chain))).toEqual({
        ...chain,
        steps: chain.steps.map((step, index) => ({ ...step, id: `step-${index + 1}` })),
      });
  });

  test('the published schema is the one of this version', () => {
    expect(JSON.parse(readFileSync('public/chain.schema.json', 'utf8'))).toEqual(
      JSON.parse(JSON.stringify(chainJsonSchema())),
    );
  });

  test('steps of one id get others, so that they can be told apart', () => {
    const twice = { steps: [usualStep('rumble', 'a'), usualStep('even', 'a'), usualStep('even', 'step-2')] };
    expect(new Set(readChain(twice).steps.map(({ id }) => id)).size).toBe(3);
  });

  test('what is not known of a step is left out, and a byte-order mark is passed over', () => {
    const read = chainFromJson(`\uFEFF${withFields('rumble', { colour: 'red' })}`);
    expect(read.steps[0]).not.toHaveProperty('colour');
  });

  test.each([
    ['not JSON', '{', /it is not JSON/],
    ['something else', '{"name":"x"}', /no field “parolaChain”/],
    ['a newer one', '{"parolaChain":2,"steps":[]}', /newer version/],
    ['no steps', '{"parolaChain":1}', /steps/],
    ['a list in place of an object', '{"parolaChain":1,"steps":[[]]}', /step 1/],
    [
      'an unknown step',
      '{"parolaChain":1,"steps":[{"kind":"reverb","on":true}]}',
      /step 1: .*kind is one of: rumble/,
    ],
    ['an inherited name', '{"parolaChain":1,"steps":[{"kind":"toString","on":true}]}', /kind is one of/],
    [
      'a number out of its limits',
      withFields('rumble', { hertz: 5 }),
      /step 1 \(Away with the rumble\): .*hertz is at least 20 Hz/,
    ],
    [
      'a number that is none',
      withFields('even', { ratio: 'NaN' }),
      /step 1 \(Evener reading\): .*ratio is a number/,
    ],
    ['a number that is null', withFields('even', { ratio: null }), /ratio/],
    ['one of a few that is another', withFields('rumble', { slopeDb: 13 }), /slopeDb is one of: 12, 24, 48/],
    [
      'a band too many',
      withFields('equaliser', { bands: Array(9).fill({ shape: 'bell', hertz: 100, gainDb: 1, q: 1 }) }),
      /at most 8 bands/,
    ],
    ['a room of another size', withFields('room', { profile: { stepHz: 46.9, levels: [1, 2] } }), /levels/],
    [
      'too many steps',
      JSON.stringify({ parolaChain: 1, steps: Array(17).fill(usualStep('rumble', '')) }),
      /at most 16 steps/,
    ],
  ])('%s is refused with the reason', (_, text, why) => {
    expect(() => chainFromJson(text)).toThrow(why);
  });

  test('no number that is none gets in, in any field of any step', () => {
    for (const kind of usualOrder)
      for (const name of Object.keys(settings[kind]))
        for (const bad of [NaN, Infinity, -Infinity, '3', null, undefined])
          expect(() => readChain({ steps: [{ ...usualStep(kind, 'a'), [name]: bad }] })).toThrow();
  });

  test('any values inside the limits are taken, 200 seeds', () => {
    for (let seed = 0; seed < 200; seed++) {
      const random = seededRandom(seed);
      const steps = usualOrder.map((kind, index) => ({
        ...usualStep(kind, `${index}`),
        on: random() < 0.5,
        ...Object.fromEntries(
          Object.entries<Setting>(settings[kind]).map(([name, { from, to }]) => [
            name,
            from + random() * (to - from),
          ]),
        ),
      }));
      const chain = { name: '', note: '', steps: steps as ChainStep[] };
      expect(readChain(JSON.parse(JSON.stringify(chain)))).toEqual(chain);
    }
  });
});

describe('chains to begin with', () => {
  test('there are six, named apart, each says what it is for and is inside the limits', () => {
    expect(builtInChains).toHaveLength(6);
    expect(new Set(builtInChains.map(({ name }) => name)).size).toBe(6);
    for (const chain of builtInChains) {
      expect(chain.note.length).toBeGreaterThan(20);
      expect(readChain(chain)).toEqual(chain);
    }
  });

  test('are fitted to a voice: thresholds go with its speech, pauses stay over the room', () => {
    const [, , table] = builtInChains;
    const of = (chain: SavedChain, kind: string) =>
      chain.steps.find((step) => step.kind === kind) as never as Record<string, number>;
    const louder = fitted(table, -17, -70);
    expect(of(louder, 'even').thresholdDb).toBe(of(table, 'even').thresholdDb + 6);
    expect(of(louder, 'phrases').towardsDb).toBe(-17);
    const noisy = fitted(table, -23, -48);
    expect(of(noisy, 'pauses').thresholdDb).toBe(-40);
    expect(fitted(table, -Infinity, -60)).toBe(table);
    expect(readChain(fitted(table, -5, -20))).toBeTruthy();
    expect(readChain(fitted(table, -70, -110))).toBeTruthy();
  });
});

test('every step has a name, a name of the trade, and a sentence', () => {
  for (const step of all.steps) {
    expect(stepNames[step.kind]).toBeTruthy();
    expect(tradeNames[step.kind]).toBeTruthy();
    expect(describeStep(step)).toMatch(/\.$/);
  }
  expect(
    describeStep({
      ...usualStep('equaliser', 'a'),
      bands: [{ shape: 'bell', hertz: 300, gainDb: -2, q: 1 }],
    }),
  ).toBe('−2.0 dB at 300 Hz.');
});
