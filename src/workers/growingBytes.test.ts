import { GrowingBytes } from './growingBytes';

const megabyte = (value: number) => new Uint8Array(1_048_576).fill(value);
/** Whether something has come about by now. */
async function settled(promise: Promise<unknown>): Promise<boolean> {
  let done = false;
  void promise.then(() => (done = true));
  await new Promise((resolve) => setTimeout(resolve));
  return done;
}

test('reading waits for what has not come, and gives less only at the end', async () => {
  const bytes = new GrowingBytes();
  const reading = bytes.read(2, 4);
  await bytes.add(Uint8Array.of(0, 1, 2));
  expect(await settled(reading)).toBe(false);
  expect(bytes.size).toBe(Infinity);
  await bytes.add(Uint8Array.of(3, 4, 5, 6));
  expect([...(await reading)]).toEqual([2, 3, 4, 5]);
  const last = bytes.read(5, 100);
  expect(await settled(last)).toBe(false);
  bytes.end();
  expect([...(await last)]).toEqual([5, 6]);
  expect([...(await bytes.read(7, 1))]).toEqual([]);
  expect([...(await bytes.read(0, 2))]).toEqual([0, 1]);
  expect(bytes.size).toBe(7);
});

test('adding waits for a reader who is 8 MB behind, not for one who waits for more or has left', async () => {
  const bytes = new GrowingBytes();
  for (let i = 0; i < 8; i++) expect(await settled(bytes.add(megabyte(i)))).toBe(true);
  const tooMuch = bytes.add(megabyte(8));
  expect(await settled(tooMuch)).toBe(false);
  await bytes.read(0, 2_000_000);
  expect(await settled(tooMuch)).toBe(true);
  const ahead = bytes.read(19_000_000, 10);
  for (let i = 9; i < 19; i++) expect(await settled(bytes.add(megabyte(i)))).toBe(true);
  expect([...(await ahead)]).toEqual(new Array(10).fill(18));
  for (let i = 19; i < 25; i++) await bytes.add(megabyte(i));
  const left = bytes.add(new Uint8Array(20_000_000));
  expect(await settled(left)).toBe(false);
  bytes.leave();
  expect(await settled(left)).toBe(true);
});

test('what was read long ago is not kept, and says so', async () => {
  const bytes = new GrowingBytes();
  for (let i = 0; i < 20; i++) {
    await bytes.add(megabyte(i));
    await bytes.read(i * 1_048_576, 1_048_576);
  }
  expect((await bytes.read(12 * 1_048_576, 1))[0]).toBe(12);
  await expect(bytes.read(0, 1)).rejects.toThrow(RangeError);
});
