import { seededRandom } from '../base/random';
import { likeness, reviseScript, type RevisedLine } from './revision';

const script = (...texts: string[]): RevisedLine[] => texts.map((text, i) => ({ id: `l${i}`, text }));
let made = 0;
const newId = () => `new${made++}`;
beforeEach(() => (made = 0));

const first = 'The lamp was lit by hand, every four hours, for eleven nights.';
const second = 'The oil was carried up in cans of twelve litres.';
const third = 'Listen.';

describe('a script that is changed', () => {
  it('keeps the id of a line with most of its words, and what was read', () => {
    const changed = 'The oil was carried up in cans of fourteen litres.';
    const revised = reviseScript(script(first, second, third), [first, changed, third], newId);
    expect(revised).toEqual([
      { id: 'l0', text: first },
      { id: 'l1', text: changed, was: second },
      { id: 'l2', text: third },
    ]);
    // Changed once more it is still the first text that was read; changed back it was never changed.
    const again = reviseScript(revised, [first, 'The oil was carried up in cans.', third], newId);
    expect(again[1]).toEqual({ id: 'l1', text: 'The oil was carried up in cans.', was: second });
    expect(reviseScript(again, [first, second, third], newId)).toEqual(script(first, second, third));
  });

  it('takes something else in its place for a new line', () => {
    const revised = reviseScript(script(first, second, third), [first, 'Nobody came.', third], newId);
    expect(revised[1]).toEqual({ id: 'new0', text: 'Nobody came.' });
  });

  it('finds lines that were moved, put in and taken out', () => {
    expect(
      reviseScript(script(first, second, third), [third, 'Wait.', first], newId).map(({ id }) => id),
    ).toEqual(['l2', 'new0', 'l0']);
  });

  it('gives two lines of the same text their own ids', () => {
    expect(reviseScript(script(third, first, third), [third, third], newId).map(({ id }) => id)).toEqual([
      'l0',
      'l2',
    ]);
  });

  it.each([1, 2, 3, 4, 5, 6, 7, 8])(
    'has each id once and every text in its place, whatever happens (%i)',
    (seed) => {
      const random = seededRandom(seed);
      const words = ['lamp', 'oil', 'stair', 'sea', 'keeper', 'night'];
      const line = () =>
        Array.from({ length: 1 + Math.floor(random() * 5) }, () => words[Math.floor(random() * 6)]).join(' ');
      let lines: RevisedLine[] = [];
      for (let round = 0; round < 30; round++) {
        const texts = lines.map(({ text }) => text).filter(() => random() > 0.1);
        for (let k = 0; k < 4; k++)
          texts.splice(Math.floor(random() * (texts.length + 1)), random() < 0.5 ? 1 : 0, line());
        lines = reviseScript(lines, texts, newId);
        expect(lines.map(({ text }) => text)).toEqual(texts);
        expect(new Set(lines.map(({ id }) => id)).size).toBe(lines.length);
        for (const { text, was } of lines) expect(was).not.toBe(text);
      }
    },
  );

  it('counts the words two lines share', () => {
    expect(likeness('The Lamp is lit', 'the lamp is out')).toBe(0.75);
    expect(likeness('a a a', 'a')).toBe(0.5);
    expect(likeness('', '…')).toBe(0);
  });
});
