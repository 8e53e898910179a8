import type { SourceRecord } from '@/storage/schema';
import { openFresh, record } from '../testing/fixture';
import { rememberSource, useProject } from '../project/openProject';
import { setRecordSettings } from '../project/settings';
import { closePart, select, setCaret, usePart } from '../sheet/part';
import { useTransport } from '../hearing/transport';
import { resetInput, useInput } from './input';
import { nextTake, placementNow, recordIntent, takesOf } from './recordPlan';

const take = (changes: Partial<SourceRecord>): SourceRecord => ({
  id: crypto.randomUUID(),
  projectIds: ['p'],
  partId: 'one',
  trackId: 'track-1',
  take: 1,
  name: 'Take 1',
  rateHz: 48_000,
  channels: 1,
  state: 'kept',
  frames: 100,
  handleFrames: 0,
  startedAt: 1,
  overrunFrames: 0,
  input: '',
  ...changes,
});

test('takes of a part stand in the order they were recorded, without checks, other parts or what was deleted', () => {
  const sources = [
    take({ name: 'c', take: 2 }),
    take({ name: 'b', take: 1, startedAt: 9 }),
    take({ name: 'a', take: 1, startedAt: 3, role: 'take' }),
    take({ name: 'gone', take: 7, deleted: true }),
    take({ name: 'room', role: 'tone' }),
    take({ name: 'elsewhere', partId: 'two' }),
  ];
  expect(takesOf('one', sources).map(({ name }) => name)).toEqual(['a', 'b', 'c']);
  expect(takesOf('one', sources, true).map(({ name }) => name)).toEqual(['a', 'b', 'c', 'gone']);
});

test('the number of a deleted take is not given again', async () => {
  const { part } = await openFresh();
  expect(nextTake(part.id)).toBe(1);
  record(1);
  rememberSource(take({ partId: part.id, take: 4, deleted: true }));
  rememberSource(take({ partId: 'two', take: 9 }));
  expect(nextTake(part.id)).toBe(5);
});

test('where a take goes is where the mode says', async () => {
  await openFresh();
  record(10);
  setCaret(48_000);
  select(0, 96_000);
  expect(placementNow()).toEqual({ mode: 'continue' });
  setRecordSettings({ mode: 'retake' });
  expect(placementNow()).toEqual({ mode: 'retake', at: 48_000 });
  setRecordSettings({ mode: 'insert' });
  expect(placementNow()).toEqual({ mode: 'insert', at: 48_000 });
  setRecordSettings({ mode: 'patch', patchLength: 'reading' });
  expect(placementNow()).toEqual({ mode: 'patch', from: 0, to: 96_000, length: 'reading' });
  usePart.setState({ selection: null });
  expect(placementNow()).toBeNull();
});

test('what stands in the way is said, the first thing first', async () => {
  await openFresh();
  resetInput();
  expect(recordIntent()).toEqual({ can: false, label: 'choose an input first' });
  useInput.setState({ status: 'failed' });
  expect(recordIntent().label).toBe('choose an input first');
  const choice = { kind: 'microphone', deviceId: 'booth', label: 'Booth' } as const;
  useInput.setState({ listed: true, choice, microphones: [{ deviceId: 'desk', label: 'Desk' }] });
  expect(recordIntent().label).toBe('“Booth” is not there');
  useInput.setState({ status: 'opening' });
  expect(recordIntent().label).toBe('opening the input');
  closePart();
  expect(recordIntent().label).toBe('add a part first');
  useTransport.setState({ mode: 'finishing' });
  expect(recordIntent().label).toBe('storing the take');
  useProject.setState({ readOnly: true });
  expect(recordIntent()).toEqual({ can: false, label: 'read-only here' });
  useTransport.setState({ mode: 'idle' });
});
