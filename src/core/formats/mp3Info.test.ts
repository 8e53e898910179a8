import { noise } from '../testing/signals';
import { createMp3Encoder } from './mp3Encoder';
import { crc16, Mp3FrameCounter, mp3FramesOf, parseMp3Header } from './mp3Info';

test('CRC-16 (polynomial 0x8005 reflected) of “123456789” is 0xBB3D, the check value of the CRC catalogue (from memory)', () => {
  expect(crc16(Uint8Array.from('123456789', (letter) => letter.charCodeAt(0)))).toBe(0xbb3d);
});

test.each([
  [[0xff, 0xfb, 0xb0, 0xc0], { bitRateKbps: 192, rateHz: 44_100, channels: 1, bytes: 626 }],
  [[0xff, 0xfb, 0xb2, 0xc0], { bitRateKbps: 192, rateHz: 44_100, channels: 1, bytes: 627 }],
  [[0xff, 0xfb, 0x94, 0x44], { bitRateKbps: 128, rateHz: 48_000, channels: 2, bytes: 384 }],
])('header %j (ISO/IEC 11172-3, 2.4.2.3)', (bytes, header) => {
  expect(parseMp3Header(Uint8Array.from(bytes), 0)).toEqual(header);
});

test.each([
  [[0xff, 0xf3, 0xb0, 0xc0]],
  [[0xff, 0xfb, 0xf0, 0xc0]],
  [[0xff, 0xfb, 0x0c, 0xc0]],
  [[0x00, 0xfb, 0xb0, 0xc0]],
  [[0xff, 0xfb]],
])('%j is no MPEG-1 Layer III header', (bytes) => {
  expect(parseMp3Header(Uint8Array.from(bytes), 0)).toBeNull();
});

test('frames are counted however the stream is cut', () => {
  const frame = new Uint8Array(384);
  frame.set([0xff, 0xfb, 0x94, 0x44]);
  const stream = new Uint8Array(384 * 5);
  for (let i = 0; i < 5; i++) stream.set(frame, i * 384);
  for (const size of [1, 3, 383, 384, 1000, 1920]) {
    const counter = new Mp3FrameCounter();
    for (let at = 0; at < stream.length; at += size) counter.process(stream.subarray(at, at + size));
    expect(counter).toMatchObject({ frames: 5, bytes: 1920 });
    expect(counter.checksum).toBe(crc16(stream));
  }
});

describe.each([
  [44_100, null],
  [48_000, null],
  [44_100, 4],
])('how many frames an encoder will make, at %i Hz, VBR quality %s', (rateHz, vbrQuality) => {
  test.each([1, 575, 576, 577, 1151, 1152, 1153, 1727, 1728, 1729, 2304, 50_000, 57_600])(
    'of %i samples',
    async (length) => {
      const format = { rateHz, channels: 1, bitRateKbps: 128, vbrQuality };
      const encoder = await createMp3Encoder(format as Parameters<typeof createMp3Encoder>[0]);
      const counter = new Mp3FrameCounter();
      counter.process(encoder.encode([noise(length, -20, 1)]).slice());
      counter.process(encoder.finish().slice());
      expect(mp3FramesOf(length)).toBe(counter.frames);
    },
  );
});
