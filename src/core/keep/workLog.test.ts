import Papa from 'papaparse';
import { sumOf, sumsBy, workCsv, type WorkSession } from './workLog';

const hour = 3_600_000;
const session = (more: Partial<WorkSession>): WorkSession => ({
  ...{ projectId: 'p', projectName: 'The Lamp House', startedAt: 0, endedAt: hour, takes: 10 },
  ...{ recordedSeconds: 1800, finishedSeconds: 1200, flubs: 5, deliveries: [] },
  ...more,
});

test('rates are those of all sessions together, not the mean of their rates', () => {
  const sum = sumOf('November', [
    session({}),
    session({ endedAt: 3 * hour, finishedSeconds: 2400, flubs: 1 }),
  ]);
  expect(sum).toMatchObject({ sessions: 2, hours: 4, takes: 20, finishedMinutes: 60, pace: 15, flubRate: 6 });
});

test('where nothing was finished, or only removed, there is no rate', () => {
  expect(sumOf('', [session({ finishedSeconds: 0 })])).toMatchObject({ pace: null, flubRate: null });
  expect(sumOf('', [session({ finishedSeconds: -300 })])).toMatchObject({ pace: null, finishedMinutes: -5 });
  expect(sumOf('', [])).toMatchObject({ sessions: 0, hours: 0, pace: null });
});

test('sums by project keep the order of the sessions', () => {
  const sums = sumsBy(
    [session({ projectName: 'B' }), session({ projectName: 'A' }), session({ projectName: 'B' })],
    ({ projectName }) => projectName,
  );
  expect(sums.map(({ label, sessions }) => [label, sessions])).toEqual([
    ['B', 2],
    ['A', 1],
  ]);
});

test('CSV, read by another program: one row a session, deliveries with checksums, no formula', () => {
  const delivery = { at: 0, fileName: '01.mp3', bytes: 5, sha256: 'ab'.repeat(32), passes: true };
  const csv = workCsv([
    session({ projectName: '=HYPERLINK("x")', deliveries: [delivery, { ...delivery, passes: false }] }),
  ]);
  const { data } = Papa.parse<Record<string, string>>(csv.trim(), { header: true });
  expect(data).toHaveLength(1);
  expect(data[0].project).toBe('\'=HYPERLINK("x")');
  expect(data[0]).toMatchObject({
    from: '1970-01-01T00:00:00.000Z',
    hours: '1',
    finished_minutes_per_hour: '20',
    flubs_per_finished_hour: '15',
    delivered: `01.mp3 ${'ab'.repeat(32)}; 01.mp3 ${'ab'.repeat(32)} (does not pass)`,
  });
});
