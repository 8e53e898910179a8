/** @jest-environment node */
import { limits } from '@/node/rooms';
import { GET, POST } from './route';

const room = 'Q'.repeat(32);
const owner = { 'x-parola-owner': 'O'.repeat(22) };
const talent = '0b5e4a4e-9c1d-4c3f-8d20-5b1d6f0a9c77';
const params = Promise.resolve({ room });
const post = (body: string, headers = {}) =>
  POST(new Request('http://localhost/', { method: 'POST', body, headers }), { params });
const get = (as: string, headers = {}, signal = AbortSignal.timeout(30)) =>
  GET(new Request(`http://localhost/?as=${as}&after=0`, { headers, signal }), { params });
const letter = (changes = {}) => JSON.stringify({ from: talent, to: 'studio', sealed: 'text', ...changes });

test('a letter of a talent comes to the studio of the room, and to nobody else', async () => {
  expect((await post(letter())).status).toBe(404);
  expect((await get('studio', owner)).status).toBe(200);
  expect((await post(letter())).status).toBe(200);
  const read = (await (await get('studio', owner)).json()) as { letters: unknown[] };
  expect(read.letters).toMatchObject([{ from: talent, sealed: 'text' }]);
  expect((await get('studio')).status).toBe(403);
  expect((await get('studio', { 'x-parola-owner': 'P'.repeat(22) })).status).toBe(403);
});

test.each(['', 'garbage', '[]', '{"from":1,"to":"studio","sealed":"x"}', '{"from":"a","to":"b"}'])(
  'what is no letter is refused: %s',
  async (body) => {
    await get('studio', owner);
    expect((await post(body)).status).toBe(400);
  },
);

test('of a flood no more is read than a letter can be long', async () => {
  await get('studio', owner);
  expect((await post(letter({ sealed: 'x'.repeat(limits.letterLength + 1) }))).status).toBe(413);
  let read = 0;
  const flood = new ReadableStream<Uint8Array>({
    pull(controller) {
      read += 10_000;
      controller.enqueue(new Uint8Array(10_000).fill(120));
    },
  });
  const request = new Request('http://localhost/', {
    method: 'POST',
    body: flood,
    duplex: 'half',
  } as RequestInit);
  expect((await POST(request, { params })).status).toBe(400);
  expect(read).toBeLessThan(limits.letterLength + 50_000);
});
