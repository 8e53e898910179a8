import { mostTextLength, readFromStudio, readFromTalent, writeMessage, type FromTalent } from './messages';

const id = '0b5e4a4e-9c1d-4c3f-8d20-5b1d6f0a9c77';
const hello: FromTalent = {
  kind: 'hello',
  version: 1,
  key: id,
  name: 'Mara',
  life: id,
  rateHz: 48_000,
  input: 'Desk microphone',
  granted: '',
  consentAt: 1,
};

const refusalOf = (data: string) => {
  const parsed = readFromTalent(data);
  return 'refused' in parsed ? parsed.refused : null;
};

describe('messages of the line', () => {
  it('come as they were sent', () => {
    expect(readFromTalent(writeMessage(hello))).toEqual({ message: hello });
    const takes = { kind: 'takes', takes: [{ id, name: 'Take 1', life: id, from: 1.5, to: null }] } as const;
    expect(readFromStudio(JSON.stringify(takes))).toEqual({ message: takes });
  });

  it('lose what nobody knows', () => {
    const more = { ...hello, onload: 'alert(1)', constructor: 1 };
    expect(readFromTalent(JSON.stringify(more))).toEqual({ message: hello });
    expect(readFromTalent(`{"__proto__":{"a":1},${writeMessage(hello).slice(1)}`)).toEqual({
      message: hello,
    });
  });

  it.each([
    ['', 'unreadable'],
    ['garbage', 'unreadable'],
    ['null', 'unknown'],
    ['[]', 'unknown'],
    ['{"kind":"format-disk"}', 'unknown'],
    ['{"kind":"toString"}', 'unknown'],
    ['{"kind":"tick","life":"x","sent":1}', 'invalid'],
    [`{"kind":"tick","life":"${id}","sent":"1"}`, 'invalid'],
    [`{"kind":"tick","life":"${id}","sent":1e300}`, 'invalid'],
    [`{"kind":"tick","life":"${id}"}`, 'invalid'],
    ['{"kind":"recordings","recordings":"all"}', 'invalid'],
    ['{"kind":"recordings","recordings":[null]}', 'invalid'],
    [`{"kind":"level","peakDb":null,"rmsDb":0}`, 'invalid'],
  ])('are refused: %s', (data, why) => expect(refusalOf(data)).toBe(why));

  it('are refused by their length before they are read', () => {
    expect(refusalOf('x'.repeat(100_000_000))).toBe('too-long');
    const long = JSON.stringify({ ...hello, name: 'n'.repeat(201) });
    expect(refusalOf(long)).toBe('invalid');
    expect(mostTextLength).toBeLessThan(1_000_000);
  });

  it('of one side are nothing to the other', () => {
    expect(readFromStudio(writeMessage(hello))).toEqual({ refused: 'unknown' });
  });
});
