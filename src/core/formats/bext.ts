import { ascii, asciiAt, viewOf } from './bytes';

/** What a Broadcast WAV says about itself. */
export interface BroadcastInfo {
  /** At most 256 characters of ASCII. */
  description: string;
  /** At most 32 characters. */
  originator: string;
  originatorReference: string;
  /** When it was recorded, milliseconds since 1970, and the offset of local time from UTC, minutes. */
  recordedAt: number;
  utcOffsetMinutes: number;
  /** The first sample's place on the time line, in samples of the file. */
  timeReference: number;
  codingHistory: string;
}

/** Loudness as the chunk holds it; null for what was not measured. */
export interface BextLoudness {
  integratedLufs: number | null;
  rangeLu: number | null;
  truePeakDbtp: number | null;
  momentaryMaxLufs: number | null;
  shortTermMaxLufs: number | null;
}

const fixedBytes = 602;
const loudnessAt = 412;
const notMeasured = 0x7fff;

/**
 * The five loudness fields, hundredths as whole numbers, and where in the chunk (from its first byte, header
 * included) they belong. EBU Tech 3285: a value that was not measured is 0x7FFF, and so is one that does not
 * fit, as −∞ of silence.
 */
export function bextLoudness(loudness: BextLoudness): { offset: number; bytes: Uint8Array<ArrayBuffer> } {
  const bytes = new Uint8Array(10);
  const fields = [
    loudness.integratedLufs,
    loudness.rangeLu,
    loudness.truePeakDbtp,
    loudness.momentaryMaxLufs,
    loudness.shortTermMaxLufs,
  ];
  fields.forEach((value, field) => {
    const known = value !== null && Number.isFinite(value) && Math.abs(value) < 327;
    viewOf(bytes).setInt16(field * 2, known ? Math.round(value * 100) : notMeasured, true);
  });
  return { offset: 8 + loudnessAt, bytes };
}

/** What is read back from a chunk. */
export interface BroadcastOrigin {
  description: string;
  originator: string;
  /** “YYYY-MM-DD” and “HH:MM:SS” as they stand there. */
  date: string;
  time: string;
  timeReference: number;
}

/** Reads the body of a `bext` chunk of any version; null when it is too short. */
export function bextInfo(body: Uint8Array): BroadcastOrigin | null {
  if (body.length < 348) return null;
  const text = (at: number, size: number) =>
    asciiAt(body, at, size)
      .replace(/\0[^]*$/, '')
      .trim();
  const timeReference = Number(viewOf(body).getBigUint64(338, true));
  return {
    description: text(0, 256),
    originator: text(256, 32),
    date: text(320, 10),
    time: text(330, 8),
    timeReference: Number.isSafeInteger(timeReference) ? timeReference : 0,
  };
}

/**
 * A whole `bext` chunk, EBU Tech 3285 version 2: header, fixed fields, coding history, pad byte. Loudness
 * fields say “not measured” until `bextLoudness` is written over them. Text is cut to its field; what is not
 * ASCII becomes “?”.
 */
export function bextChunk(info: BroadcastInfo): Uint8Array<ArrayBuffer> {
  const history = ascii(plain(info.codingHistory));
  const length = fixedBytes + history.length;
  const bytes = new Uint8Array(8 + length + (length % 2));
  const view = viewOf(bytes);
  bytes.set(ascii('bext'), 0);
  view.setUint32(4, length, true);
  const text = (at: number, size: number, value: string) =>
    bytes.set(ascii(plain(value).slice(0, size)), 8 + at);
  const local = new Date(info.recordedAt + info.utcOffsetMinutes * 60_000).toISOString();
  text(0, 256, info.description);
  text(256, 32, info.originator);
  text(288, 32, info.originatorReference);
  text(320, 10, local.slice(0, 10));
  text(330, 8, local.slice(11, 19));
  view.setBigUint64(8 + 338, BigInt(Math.max(0, Math.round(info.timeReference))), true);
  view.setUint16(8 + 346, 2, true);
  // 64 bytes of UMID stay zero: none is given.
  for (let field = 0; field < 5; field++) view.setInt16(8 + loudnessAt + field * 2, notMeasured, true);
  bytes.set(history, 8 + fixedBytes);
  return bytes;
}

const plain = (text: string) => text.replace(/[^\x20-\x7e\r\n]/g, '?');
