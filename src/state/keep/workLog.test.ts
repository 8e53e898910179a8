import type { WorkSession } from '@/core/keep/workLog';
import { noise } from '@/core/testing/signals';
import { allSessions } from '@/storage/workLog';
import { saved } from '../page/saving';
import { resetStores } from '../page/resets';
import { strikeSelection } from '../sheet/editing';
import { addMark } from '../sheet/marks';
import { select } from '../sheet/part';
import { openFresh, record, recordAudio } from '../testing/fixture';
import { followWork } from './workLog';

// What exporting brings along begins to measure when a project closes.
jest.mock('../files/exporting', () => ({ useExported: { subscribe: () => () => undefined } }));

let now = 1_700_000_000_000;
beforeEach(() => {
  now += 86_400_000;
  jest.spyOn(Date, 'now').mockImplementation(() => now);
});
afterEach(() => {
  jest.restoreAllMocks();
  resetStores();
});

const minutes = (count: number) => (now += count * 60_000);

async function sessionsOf(projectId: string): Promise<WorkSession[]> {
  expect(await saved()).toBe(true);
  return (await allSessions()).filter((session) => session.projectId === projectId);
}

test('a session has what was recorded, finished and marked since the project was opened, and its length', async () => {
  const { project } = await openFresh('One');
  record(600);
  addMark('flub', 100);
  expect(await saved()).toBe(true);
  const end = followWork();
  minutes(10);
  await recordAudio(noise(48_000, -20, 1));
  addMark('flub', 200);
  addMark('note', 300);
  expect(await saved()).toBe(true);
  minutes(10);
  record(300);
  select(0, 60 * 48_000);
  strikeSelection();
  expect(await saved()).toBe(true);
  end();
  const [session, ...more] = await sessionsOf(project.id);
  expect(more).toEqual([]);
  expect(session).toMatchObject({ projectName: 'Test', takes: 2, flubs: 1, deliveries: [] });
  expect(session.recordedSeconds).toBeCloseTo(301, 6);
  expect(session.finishedSeconds).toBeCloseTo(241, 6);
  expect(session.endedAt - session.startedAt).toBe(20 * 60_000);
});

test('after a long pause a new one begins; one in which nothing came of it is not written down', async () => {
  const { project } = await openFresh('One');
  const end = followWork();
  record(60);
  expect(await saved()).toBe(true);
  minutes(45);
  record(30);
  expect(await saved()).toBe(true);
  minutes(90);
  addMark('note', 5);
  expect(await saved()).toBe(true);
  end();
  const sessions = await sessionsOf(project.id);
  expect(sessions.map(({ takes, finishedSeconds }) => [takes, finishedSeconds])).toEqual([
    [1, 60],
    [1, 30],
  ]);
});
