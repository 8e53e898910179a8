import { ascii, viewOf } from './bytes';

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

const fixedBytes = 602;

/**
 * A whole `bext` chunk, EBU Tech 3285 version 2: header, fixed fields, coding history, pad byte. Loudness fields hold 0x7FFF, which means
 * not measured. Text is cut to its field; what is not ASCII becomes “?”.
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
  for (let field = 0; field < 5; field++) view.setInt16(8 + 412 + field * 2, 0x7fff, true);
  bytes.set(history, 8 + fixedBytes);
  return bytes;
}

const plain = (text: string) => text.replace(/[^\x20-\x7e\r\n]/g, '?');
