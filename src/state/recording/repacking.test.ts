import { useTransport } from '../hearing/transport';
import { useJob } from '../page/jobs';
import { resetStores } from '../page/resets';
import { noProject, rememberSource, useProject, type SourceRecord } from '../project/openProject';
import { packWhenIdle } from './repacking';

const mockRun = jest.fn<Promise<null>, [string, { sourceId: string }, { signal: AbortSignal }]>();
jest.mock('../page/jobs', () => ({
  ...jest.requireActual<object>('../page/jobs'),
  importClient: { run: (...given: Parameters<typeof mockRun>) => mockRun(...given) },
}));

const source = (id: string, state: SourceRecord['state'] = 'kept') => ({ id, state }) as SourceRecord;
const asked = () => mockRun.mock.calls.map(([job, { sourceId }]) => `${job} ${sourceId}`);
const wait = (ms: number) => jest.advanceTimersByTimeAsync(ms);

let nextId = 0;
/** Sources are remembered by their ids for as long as the page is open. */
const fresh = () => `take ${nextId++}`;

beforeEach(() => {
  jest.useFakeTimers();
  mockRun.mockReset().mockResolvedValue(null);
  useTransport.setState({ mode: 'idle' });
  useProject.setState({ ...noProject, status: 'open' });
  packWhenIdle();
});
afterEach(() => {
  resetStores();
  useProject.setState(noProject);
  jest.useRealTimers();
});

test('closed takes are packed once nothing has been done for three seconds, each once', async () => {
  const [first, second, running] = [fresh(), fresh(), fresh()];
  rememberSource(source(first));
  rememberSource(source(running, 'recording'));
  await wait(2900);
  rememberSource(source(second));
  await wait(2900);
  expect(asked()).toEqual([]);
  await wait(200);
  expect(asked()).toEqual([`repack ${first}`, `repack ${second}`]);
  rememberSource(source(running));
  await wait(10_000);
  expect(asked()).toEqual([`repack ${first}`, `repack ${second}`, `repack ${running}`]);
});

test('a recording ends the packing at once; it goes on afterwards where it was', async () => {
  const [first, second] = [fresh(), fresh()];
  let finish: (() => void) | undefined;
  mockRun.mockImplementationOnce(() => new Promise((resolve) => (finish = () => resolve(null))));
  rememberSource(source(first));
  rememberSource(source(second));
  await wait(3100);
  expect(asked()).toEqual([`repack ${first}`]);
  useTransport.setState({ mode: 'recording' });
  expect(mockRun.mock.calls[0][2].signal.aborted).toBe(true);
  finish?.();
  await wait(20_000);
  expect(asked()).toHaveLength(1);
  useTransport.setState({ mode: 'idle' });
  await wait(3100);
  expect(asked()).toEqual([`repack ${first}`, `repack ${first}`, `repack ${second}`]);
});

test('not while the user waits for a job, and not in a project that another tab edits', async () => {
  useJob.setState({ job: { title: 'Writing', done: 0, label: '', cancel: () => undefined } });
  const id = fresh();
  rememberSource(source(id));
  await wait(10_000);
  expect(asked()).toEqual([]);
  useProject.setState({ readOnly: true });
  useJob.setState({ job: null });
  await wait(10_000);
  expect(asked()).toEqual([]);
  useProject.setState({ readOnly: false });
  await wait(3100);
  expect(asked()).toEqual([`repack ${id}`]);
});

test('one that cannot be packed keeps no other from it, and is tried when the project is opened again', async () => {
  const [bad, good] = [fresh(), fresh()];
  mockRun.mockRejectedValueOnce(new Error('The disk is full.'));
  rememberSource(source(bad));
  rememberSource(source(good));
  await wait(30_000);
  expect(asked()).toEqual([`repack ${bad}`, `repack ${good}`]);
  const { sources } = useProject.getState();
  resetStores();
  useProject.setState({ ...noProject, status: 'open', sources });
  await wait(3100);
  expect(asked().slice(2)).toEqual([`repack ${bad}`]);
});
