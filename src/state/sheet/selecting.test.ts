import { openFresh, rate, record } from '../testing/fixture';
import { useNotices } from '../page/notices';
import { closePart, select, setCaret, usePart } from './part';
import { selectSentence } from './selecting';

/** Two sentences of a second each, a second apart; a punch is a tenth of a second before its first word. */
const mockSentences = [1, 3].map((from) => ({
  from: from * 48_000,
  to: (from + 1) * 48_000,
  punch: (from - 0.1) * 48_000,
}));
jest.mock('./sentenceSteps', () => ({ sentencesNear: () => Promise.resolve(mockSentences) }));

afterEach(closePart);

test.each([
  ['in a sentence it is that one', 1.5, 0],
  ['just before its first word as well', 0.95, 0],
  ['in a pause it is the next one', 2.5, 1],
  ['behind the last one it is the last one: there a take ends', 5.9, 1],
])('selects the sentence: %s', async (_what, seconds, which) => {
  await openFresh();
  record(6);
  select(0, 0);
  setCaret(seconds * rate);
  await selectSentence();
  const { punch, to } = mockSentences[which];
  expect(usePart.getState().selection).toEqual({ from: punch, to });
  expect(useNotices.getState().notices).toEqual([]);
});
