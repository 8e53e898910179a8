import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { stopMeasuring } from '@/node/measuring';
import { silentFlac } from '@/core/testing/hostile';
import { POST } from './route';

const arrival = readFileSync('public/demo/arrival.mp3');

/** The worker is a file of its own, compiled before the application is built. */
beforeAll(() => execFileSync(process.execPath, ['scripts/build-bundles.mjs']));
afterAll(stopMeasuring);

const ask = (query: string, body: BodyInit | null, init: RequestInit = {}) =>
  POST(
    new Request(`http://localhost/api/proof?${query}`, {
      method: 'POST',
      body,
      ...(body instanceof ReadableStream && { duplex: 'half' }),
      ...init,
    } as RequestInit),
  );
const answerOf = async (response: Response) => (await response.json()) as Record<string, unknown>;
const spooled = () => readdirSync(tmpdir()).filter((name) => name.startsWith('parola-proof-'));

test('a file is measured apart, and nothing of it is kept', async () => {
  const response = await ask('spec=audiobook-retail&file=arrival.mp3', arrival);
  expect(response.status).toBe(200);
  expect(await answerOf(response)).toMatchObject({ file: 'arrival.mp3', passes: true, mistake: null });
  expect(spooled()).toEqual([]);
});

test('half a file never passes, whatever it measures', async () => {
  const response = await ask('spec=audiobook-retail', arrival.subarray(0, arrival.length / 2));
  expect(await answerOf(response)).toMatchObject({
    passes: false,
    mistake: expect.stringContaining('cut short'),
  });
  const csv = await ask('spec=audiobook-retail&report=csv', arrival.subarray(0, arrival.length / 2));
  expect(await csv.text()).toContain('cut short');
});

test('a report says in its own policy that nothing else is loaded', async () => {
  const response = await ask('spec=audiobook-retail&report=html', arrival);
  expect(response.headers.get('content-type')).toContain('text/html');
  expect(response.headers.get('content-security-policy')).toBe(
    "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'",
  );
});

test.each([
  ['spec=constructor', 400],
  ['spec=__proto__', 400],
  ['spec=', 400],
  ['', 400],
  [`spec=${encodeURIComponent('{"parolaSpec":1,"__proto__":{"a":1}}')}`, 400],
  [`spec=${encodeURIComponent('{"parolaSpec":1,"toString":{"a":1},"limits":{"valueOf":1}}')}`, 400],
  [`spec=${encodeURIComponent('{"parolaSpec":1,"name":{"a":[]}}')}`, 400],
  [`spec=${encodeURIComponent('{"parolaSpec":')}`, 400],
  ['spec=dry-voice&report=constructor', 415],
  ['spec=dry-voice&report=toString', 415],
  ['spec=dry-voice&report=', 415],
])('?%s is answered with %d and a reason', async (query, status) => {
  const response = await ask(query, arrival);
  expect(response.status).toBe(status);
  const { error } = await answerOf(response);
  expect(error).not.toMatch(/is not a function|undefined|TypeError/);
});

test('what holds days of silence in a few bytes is refused, and the next file is measured', async () => {
  const bytes = silentFlac({ hours: 30, rateHz: 1000, channels: 8 });
  expect(bytes.length).toBeLessThan(100_000);
  const response = await ask('spec=dry-voice', bytes);
  expect(response.status).toBe(413);
  expect((await answerOf(response)).error).toContain('more than 24 hours');
  expect((await ask('spec=dry-voice', arrival)).status).toBe(200);
});

test('who leaves is not measured for any longer, and the main thread stays free meanwhile', async () => {
  const bytes = silentFlac({ hours: 20, rateHz: 48_000, channels: 1 });
  const leaving = new AbortController();
  let turns = 0;
  const turning = setInterval(() => turns++, 5);
  const answered = ask('spec=dry-voice', bytes, { signal: leaving.signal });
  await new Promise((resolve) => setTimeout(resolve, 300));
  // Turns go on while a thread works: had this one worked, there would be none.
  expect(turns).toBeGreaterThan(10);
  leaving.abort();
  expect((await answered).status).toBe(499);
  clearInterval(turning);
  // The thread that was at it is free, or replaced.
  expect((await ask('spec=dry-voice', arrival)).status).toBe(200);
});

test('too many at once are told to come again; those that wait are all measured', async () => {
  const answers = await Promise.all(Array.from({ length: 24 }, () => ask('spec=audiobook-retail', arrival)));
  const count = (status: number) => answers.filter((answer) => answer.status === status).length;
  expect(count(200) + count(503)).toBe(24);
  expect(count(200)).toBeGreaterThanOrEqual(16);
  expect(count(503)).toBeGreaterThan(0);
});

test('nothing, and what is no sound', async () => {
  expect((await ask('spec=dry-voice', null)).status).toBe(415);
  expect((await ask('spec=dry-voice', 'not sound at all')).status).toBe(415);
});
