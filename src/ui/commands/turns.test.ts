import { notify, notifyError } from '@/state/page/notices';
import { Turns } from './turns';

jest.mock('@/state/page/notices', () => ({ notify: jest.fn(), notifyError: jest.fn() }));
beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

/** Commands that note when they act; a looking one acts until it is told to end. */
function noting() {
  const turns = new Turns();
  const acted: string[] = [];
  const ends: Record<string, { well(): void; badly(error: Error): void }> = {};
  const plain = (name: string, held = false) => turns.take({ act: () => void acted.push(name), held });
  const looking = (name: string, held = false) =>
    turns.take({
      act() {
        acted.push(name);
        return new Promise<void>((well, badly) => (ends[name] = { well, badly }));
      },
      held,
    });
  return { acted, ends, plain, looking };
}
const settle = () => jest.advanceTimersByTimeAsync(0);

test('what is pressed while a command looks acts when it has found something, in order', async () => {
  const { acted, ends, plain, looking } = noting();
  plain('mark');
  looking('sentence');
  plain('strike');
  looking('next sentence');
  plain('strike that');
  expect(acted).toEqual(['mark', 'sentence']);
  ends.sentence.well();
  await settle();
  expect(acted).toEqual(['mark', 'sentence', 'strike', 'next sentence']);
  ends['next sentence'].well();
  await settle();
  expect(acted).toEqual(['mark', 'sentence', 'strike', 'next sentence', 'strike that']);
  plain('play');
  expect(acted.at(-1)).toBe('play');
});

test('one that fails at once keeps nobody who waits', async () => {
  const turns = new Turns();
  const acted: string[] = [];
  const error = new Error('Not now.');
  const fails = () => {
    throw error;
  };
  turns.take({ act: () => Promise.resolve(), held: false });
  turns.take({ act: fails, held: false });
  turns.take({ act: () => void acted.push('after it'), held: false });
  await settle();
  expect(notifyError).toHaveBeenCalledWith(error);
  expect(acted).toEqual(['after it']);
});

test('a key that is held does not pile up', async () => {
  const { acted, ends, looking } = noting();
  looking('step');
  looking('held step', true);
  looking('held step', true);
  ends.step.well();
  await settle();
  expect(acted).toEqual(['step']);
  looking('held step', true);
  expect(acted).toEqual(['step', 'held step']);
});

test('one that fails says so, one that does not answer is not waited for', async () => {
  const { acted, ends, plain, looking } = noting();
  looking('sentence');
  plain('record');
  const error = new Error('No answer.');
  ends.sentence.badly(error);
  await settle();
  expect(notifyError).toHaveBeenCalledWith(error);
  expect(acted).toEqual(['sentence', 'record']);
  looking('silent');
  plain('stop');
  await jest.advanceTimersByTimeAsync(1999);
  expect(acted.at(-1)).toBe('silent');
  expect(notify).not.toHaveBeenCalled();
  await jest.advanceTimersByTimeAsync(1);
  expect(acted.at(-1)).toBe('stop');
  // Who pressed it learns that it was done without what it waited for.
  expect(notify).toHaveBeenCalledWith('info', expect.stringMatching(/^Looking in the sound takes longer/));
  // What comes after all lets nothing overtake.
  looking('again');
  plain('play');
  ends.silent.well();
  await settle();
  expect(acted.at(-1)).toBe('again');
});
