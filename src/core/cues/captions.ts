import { say } from '../../texts/say';
import { ParolaError } from '../base/errors';
import { clock } from '../formats/markFiles';
import type { Cue } from '../timeline/cues';
import type { ListedCue, ReadCues, RowFault } from './cueList';

const timing = /^(\S+)\s+-->\s+(\S+)/;

/** Seconds of `hh:mm:ss.mmm`, hours left out or not, with a point or a comma; null for anything else. */
function secondsOf(text: string): number | null {
  const match = /^(?:(\d{1,3}):)?(\d{1,2}):(\d{2})[.,](\d{1,3})$/.exec(text);
  if (!match) return null;
  const [hours = '0', minutes, seconds, fraction] = match.slice(1);
  if (Number(minutes) > 59 || Number(seconds) > 59) return null;
  return (
    Number(hours) * 3600 + Number(minutes) * 60 + Number(seconds) + Number(fraction.padEnd(3, '0')) / 1000
  );
}

const entities: Readonly<Record<string, string>> = { '&amp;': '&', '&lt;': '<', '&gt;': '>', '&nbsp;': ' ' };

/** The words of a caption, without its tags. */
const wordsOf = (text: string) =>
  text
    .replace(/<[^>]*>/g, '')
    .replace(/&(amp|lt|gt|nbsp);/g, (entity) => entities[entity])
    .replace(/\s+/g, ' ')
    .trim();

/**
 * Cues of WebVTT (W3C) or SubRip captions; a voice tag of WebVTT names who speaks. Blocks that cannot be read
 * are told with their line. Throws ParolaError `unsupported` for what is neither.
 */
export function readCaptions(text: string, rateHz: number): ReadCues {
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\n|\r/);
  const cues: ListedCue[] = [];
  const faults: RowFault[] = [];
  const isVtt = /^WEBVTT(\s|$)/.test(lines[0] ?? '');
  for (let at = 0; at < lines.length; at++) {
    if (!lines[at].includes('-->')) continue;
    const match = timing.exec(lines[at].trim());
    const [from, to] = [secondsOf(match?.[1] ?? ''), secondsOf(match?.[2] ?? '')];
    const before = lines[at - 1]?.trim() ?? '';
    const first = at + 1;
    const body: string[] = [];
    while (at + 1 < lines.length && lines[at + 1].trim() !== '' && !lines[at + 1].includes('-->'))
      body.push(lines[++at]);
    const raw = body.join(' ');
    const fault = (reason: string) => faults.push({ row: first, reason, cells: [lines[first - 1], raw] });
    if (from === null || to === null) {
      fault(say`its times cannot be read: they look like 00:01:02.345 --> 00:01:04.000`);
      continue;
    }
    if (to <= from) {
      fault(to === from ? say`it ends where it begins` : say`it ends before it begins`);
      continue;
    }
    const count = String(cues.length + 1);
    cues.push({
      number: before !== '' && before.length <= 40 && !/\s/.test(before) ? before : count,
      from: Math.round(from * rateHz),
      to: Math.round(to * rateHz),
      character: wordsOf(/<v(?:\.[^\s>]*)?\s+([^>]+)>/.exec(raw)?.[1] ?? ''),
      text: wordsOf(raw),
      note: '',
    });
  }
  if (cues.length === 0 && faults.length === 0 && !isVtt)
    throw new ParolaError('unsupported', say`There are no captions in this file: neither WebVTT nor SubRip.`);
  return { cues, faults };
}

const escaped = (text: string) =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replace(/\s+/g, ' ');

export type CaptionForm = 'vtt' | 'srt';

/** Cues as captions, in order of time; `nameOf` says who speaks one. */
export function captionsOf(
  cues: readonly Cue[],
  form: CaptionForm,
  rateHz: number,
  nameOf: (cue: Cue) => string,
): string {
  const blocks = cues.map((cue, index) => {
    const [from, to] = [clock(cue.from / rateHz), clock(Math.max(cue.to, cue.from + 1) / rateHz)];
    if (form === 'srt') {
      // A blank line would end the caption, and an arrow begin one.
      const text = cue.text.replace(/\s+/g, ' ').replaceAll('-->', '→');
      return `${index + 1}\n${from.replace('.', ',')} --> ${to.replace('.', ',')}\n${text}\n`;
    }
    const name = nameOf(cue);
    return `${cue.number.replace(/\s+|-->/g, '_')}\n${from} --> ${to}\n${name ? `<v ${escaped(name)}>` : ''}${escaped(cue.text)}\n`;
  });
  return `${form === 'vtt' ? 'WEBVTT\n\n' : ''}${blocks.join('\n')}`;
}
