import { say } from '../../texts/say';
import { buf as crc32 } from 'crc-32';
import { blockFrames, type Planar } from '../base/audio';
import { ParolaError } from '../base/errors';

/** A block of a recording on its way: which one it is, and its audio. */
export interface BlockMessage {
  readonly recording: string;
  /** Counted in `blockFrames` from the beginning of the recording. */
  readonly index: number;
  readonly audio: Planar;
}

const magic = 0x50_42_31_0a;
const headerBytes = 40;
/** How a sample stands in the message: as it is, or as a whole number where it is exactly one. */
const forms = { float: 0, bits16: 1, bits24: 2, capture16: 3 } as const;
type Form = (typeof forms)[keyof typeof forms];
const bytesOf: Record<Form, number> = { 0: 4, 1: 2, 2: 3, 3: 2 };
const mostChannels = 8;

export const mostBlockBytes = headerBytes + 4 * blockFrames * mostChannels;

const damaged = (what: string) =>
  new ParolaError('damaged-file', say`A block of audio came over the line damaged (${what}).`);

const idBytes = (id: string) =>
  Uint8Array.from(id.replaceAll('-', '').match(/../g) ?? [], (pair) => parseInt(pair, 16));

function idOf(bytes: Uint8Array): string {
  const hex = Array.from(bytes, (value) => value.toString(16).padStart(2, '0')).join('');
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-');
}

/** Whole numbers that a browser has made floats of: with 2ⁿ, or, for 16 bits, with 32,767 above zero. */
const wholeOf: Record<Exclude<Form, 0>, (sample: number) => number> = {
  [forms.bits16]: (sample) => sample * 0x8000,
  [forms.bits24]: (sample) => sample * 0x80_0000,
  [forms.capture16]: (sample) => Math.round(sample * (sample > 0 ? 0x7fff : 0x8000)),
};
/** Chromium multiplies by this, in 32 bits (measured: 20,000 of 20,000 samples of its fake microphone). */
const aboveZero = Math.fround(1 / 0x7fff);

const sampleOf: Record<Exclude<Form, 0>, (whole: number) => number> = {
  [forms.bits16]: (whole) => whole / 0x8000,
  [forms.bits24]: (whole) => whole / 0x80_0000,
  [forms.capture16]: (whole) => (whole > 0 ? Math.fround(whole * aboveZero) : whole / 0x8000),
};

/** Whether every sample is that whole number, to the bit (−0 is no whole number). */
function fits(audio: Planar, form: Exclude<Form, 0>): boolean {
  const most = form === forms.bits24 ? 0x80_0000 : 0x8000;
  return audio.every((samples) =>
    samples.every((sample) => {
      const whole = wholeOf[form](sample);
      return (
        Number.isInteger(whole) && whole < most && whole >= -most && Object.is(sampleOf[form](whole), sample)
      );
    }),
  );
}

const formOf = (audio: Planar): Form =>
  ([forms.bits16, forms.capture16, forms.bits24] as const).find((form) => fits(audio, form)) ?? forms.float;

/**
 * A block as bytes, little-endian: magic, form, channels, two unused, the recording's id (16), index, frames,
 * CRC-32 (ISO 3309) of all but itself, unused; then the channels one after another. Samples that are exactly
 * whole numbers of 16 or 24 bits travel as such: what is read is what was recorded, to the bit.
 */
export function writeBlockMessage({ recording, index, audio }: BlockMessage): Uint8Array<ArrayBuffer> {
  const form = formOf(audio);
  const frames = audio[0].length;
  const width = bytesOf[form];
  const bytes = new Uint8Array(headerBytes + audio.length * frames * width);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, magic);
  bytes.set([form, audio.length], 4);
  bytes.set(idBytes(recording), 8);
  view.setUint32(24, index, true);
  view.setUint32(28, frames, true);
  let at = headerBytes;
  for (const samples of audio)
    for (const sample of samples) {
      if (form === forms.float) view.setFloat32(at, sample, true);
      else putWhole(view, at, width, wholeOf[form](sample));
      at += width;
    }
  view.setInt32(32, checksum(bytes), true);
  return bytes;
}

function putWhole(view: DataView, at: number, width: number, whole: number) {
  view.setInt16(at, width === 2 ? whole : whole & 0xffff, true);
  if (width === 3) view.setInt8(at + 2, whole >> 16);
}

/** The checksum of a message, whatever stands where its own is. */
const checksum = (bytes: Uint8Array) => crc32(bytes.subarray(36), crc32(bytes.subarray(0, 32)));

/** The block in a message; throws ParolaError `damaged-file` for whatever is none, or has been changed. */
export function readBlockMessage(bytes: Uint8Array): BlockMessage {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < headerBytes || bytes.length > mostBlockBytes) throw damaged(say`its length`);
  if (view.getUint32(0) !== magic) throw damaged(say`it is none`);
  const [form, channels] = bytes.subarray(4, 6);
  const width = bytesOf[form as Form];
  const frames = view.getUint32(28, true);
  if (width === undefined || channels < 1 || channels > mostChannels || frames < 1 || frames > blockFrames)
    throw damaged(say`its header`);
  if (bytes.length !== headerBytes + channels * frames * width) throw damaged(say`its length`);
  if (view.getInt32(32, true) !== checksum(bytes)) throw damaged(say`its checksum`);
  const audio = Array.from({ length: channels }, () => new Float32Array(frames));
  let at = headerBytes;
  for (const samples of audio)
    for (let i = 0; i < frames; i++, at += width) samples[i] = readSample(view, at, form as Form);
  return { recording: idOf(bytes.subarray(8, 24)), index: view.getUint32(24, true), audio };
}

function readSample(view: DataView, at: number, form: Form): number {
  if (form === forms.float) return view.getFloat32(at, true);
  const whole =
    form === forms.bits24 ? (view.getInt8(at + 2) << 16) | view.getUint16(at, true) : view.getInt16(at, true);
  return sampleOf[form](whole);
}
