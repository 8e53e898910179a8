import { say } from '../../texts/say';
import { ascii, asciiAt, joinBytes, viewOf } from './bytes';
import type { FileMark } from './fileMarks';

/** Longest name a mark is read or written with, bytes. */
const longestName = 1000;

/**
 * Bytes of a text in the encoding WAV texts have in practice: UTF-8 where it is not ASCII (*common
 * practice*).
 */
const encode = (text: string) => new TextEncoder().encode(text).slice(0, longestName);

function chunk(id: string, body: Uint8Array): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(8 + body.length + (body.length % 2));
  bytes.set(ascii(id));
  viewOf(bytes).setUint32(4, body.length, true);
  bytes.set(body, 8);
  return bytes;
}

/**
 * Marks as a `cue ` chunk and a `LIST adtl` chunk with a `labl` for each name and an `ltxt` for each length
 * (Multimedia Programming Interface and Data Specifications 1.0). Nothing without marks. Positions are frames
 * and end at 32 bits.
 */
export function wavMarkChunks(marks: readonly FileMark[]): Uint8Array<ArrayBuffer> {
  if (marks.length === 0) return new Uint8Array(0);
  const cue = new Uint8Array(4 + marks.length * 24);
  const view = viewOf(cue);
  view.setUint32(0, marks.length, true);
  const labels: Uint8Array[] = [ascii('adtl')];
  marks.forEach(({ at, length, name }, index) => {
    const offset = 4 + index * 24;
    view.setUint32(offset, index + 1, true);
    view.setUint32(offset + 4, at, true);
    cue.set(ascii('data'), offset + 8);
    view.setUint32(offset + 20, at, true);
    const id = new Uint8Array(4);
    viewOf(id).setUint32(0, index + 1, true);
    labels.push(chunk('labl', joinBytes([id, encode(name), new Uint8Array(1)])));
    if (length === 0) return;
    const text = new Uint8Array(20);
    viewOf(text).setUint32(0, index + 1, true);
    viewOf(text).setUint32(4, length, true);
    text.set(ascii('rgn '), 8);
    labels.push(chunk('ltxt', text));
  });
  return joinBytes([chunk('cue ', cue), chunk('LIST', joinBytes(labels))]);
}

/**
 * Reads the bodies of a `cue ` and a `LIST` chunk; what does not fit together is left out. In order of time.
 */
export function readWavMarks(cue: Uint8Array, list: Uint8Array | null): FileMark[] {
  const view = viewOf(cue);
  const count = cue.length < 4 ? 0 : Math.min(view.getUint32(0, true), Math.floor((cue.length - 4) / 24));
  const names = new Map<number, string>();
  const lengths = new Map<number, number>();
  if (list && list.length >= 4 && asciiAt(list, 0, 4) === 'adtl') readLabels(list, names, lengths);
  return Array.from({ length: count }, (_, index) => {
    const offset = 4 + index * 24;
    const id = view.getUint32(offset, true);
    return {
      at: view.getUint32(offset + 20, true),
      length: lengths.get(id) ?? 0,
      name: names.get(id) ?? say`Mark ${index + 1}`,
    };
  }).sort((a, b) => a.at - b.at);
}

function readLabels(list: Uint8Array, names: Map<number, string>, lengths: Map<number, number>) {
  const view = viewOf(list);
  for (let at = 4; at + 12 <= list.length;) {
    const kind = asciiAt(list, at, 4);
    const size = view.getUint32(at + 4, true);
    const id = view.getUint32(at + 8, true);
    const end = Math.min(list.length, at + 8 + size);
    if (kind === 'labl') {
      const text = new TextDecoder().decode(list.subarray(at + 12, Math.min(end, at + 12 + longestName)));
      names.set(id, text.replace(/\0.*$/s, '').trim());
    } else if (kind === 'ltxt' && end >= at + 16) lengths.set(id, view.getUint32(at + 12, true));
    at += 8 + size + (size % 2);
  }
}
