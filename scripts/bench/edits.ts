import { seededRandom } from '@/core/base/random';
import { closeUp, insertTime, removeTime, stet, strike, strikeAll } from '@/core/timeline/edits';
import { difference } from '@/core/timeline/history';
import * as joints from '@/core/timeline/joints';
import { copyPassage, pasteOver, pastePassage, slidePassage } from '@/core/timeline/passages';
import { PieceTable, silence, type Piece } from '@/core/timeline/pieces';
import { fillGaps, patchTone, setPauseLength } from '@/core/timeline/roomEdits';
import { lineStates, placeLine } from '@/core/timeline/scriptLines';
import { overlay } from '@/core/timeline/overlay';
import { hearTake } from '@/core/timeline/takes';
import type { Mark, Timeline } from '@/core/timeline/timeline';
import { median, type Row } from './row';

const pieceFrames = 24_000;
const region = { source: 'take-0', channel: 0, start: 0, end: 100_000 };
const toneOf = () => region;
const newId = () => Math.random().toString(36);

/**
 * A part of so many pieces, half of them on each of two tracks, with a line of the script for every twentieth
 * and a mark for every tenth.
 */
export function largePart(count: number): Timeline {
  const random = seededRandom(1);
  const pieces = (): Piece[] =>
    Array.from({ length: count / 2 }, (_, i) => ({
      kind: 'audio',
      source: `take-${i % 40}`,
      channel: 0,
      from: Math.floor(random() * 1e8),
      length: pieceFrames,
      gainDb: 0,
    }));
  const marks: Mark[] = Array.from({ length: count / 20 }, (_, i) => ({
    id: `m${String(i).padStart(6, '0')}`,
    kind: i % 2 === 0 ? 'line' : 'flub',
    at: i * 10 * pieceFrames,
    length: i % 2 === 0 ? 0 : 100,
    name: '',
    ...(i % 2 === 0 && { line: `l${i}` }),
  }));
  const tracks = ['one', 'two'].map((id) => ({ id, name: id, table: PieceTable.of(pieces()) }));
  return {
    tracks,
    struck: [],
    marks,
    places: tracks.flatMap(({ id, table }) =>
      table.pieces.slice(0, 2000).flatMap((piece, index) =>
        piece.kind === 'audio'
          ? [
              {
                source: piece.source,
                channel: 0,
                track: id,
                at: index * pieceFrames,
                from: piece.from,
                length: pieceFrames,
              },
            ]
          : [],
      ),
    ),
  };
}

function milliseconds(work: () => unknown, times = 9): number {
  const all: number[] = [];
  for (let i = 0; i < times; i++) {
    const started = performance.now();
    work();
    all.push(performance.now() - started);
  }
  return median(all);
}

/** Every kind of edit in the middle of a large part, each with its difference: what a key costs the page. */
export function benchEdits(): Row[] {
  const count = 20_000;
  const part = largePart(count);
  const at = 5000 * pieceFrames + 777;
  const range = { from: at, to: at + 70_000 };
  const struck = strikeAll(
    part,
    Array.from({ length: 5000 }, (_, i) => ({
      from: i * 2 * pieceFrames + 50,
      to: (i * 2 + 1) * pieceFrames,
    })),
  );
  const passage = copyPassage(part, range);
  const take = new Map([['one', [{ ...part.tracks[0].table.pieces[0], length: 50_000 } as Piece]]]);
  const gappy: Timeline = {
    ...part,
    tracks: part.tracks.map((track) => ({
      ...track,
      table: PieceTable.of(
        track.table.pieces.map((piece, i) => (i % 10 === 0 ? silence(pieceFrames) : piece)),
      ),
    })),
  };
  const lines = Array.from({ length: 500 }, (_, i) => ({ id: `l${i * 2}` }));
  const edits: Record<string, () => Timeline> = {
    strike: () => strike(part, range),
    stet: () => stet(struck, { from: 0, to: at }),
    'close up': () => closeUp(struck, range),
    cut: () => removeTime(part, range),
    insert: () => insertTime(part, at, 5000),
    paste: () => pastePassage(part, passage, at, { newId }),
    'paste over': () => pasteOver(part, passage, at, { newId }),
    slide: () => slidePassage(part, range, 9000),
    split: () => joints.split(part, at),
    gain: () => joints.changeGain(part, range, 3),
    fade: () => joints.setFade(part, range, 'fadeIn', 'power'),
    'join length': () => joints.setJoin(part, at, 960, 'power'),
    'patch tone': () => patchTone(part, range, toneOf),
    pause: () => setPauseLength(part, range, 9000),
    'a take over': () => overlay(part, take, at),
    'hear a take': () => hearTake(part, 'take-7', range),
    'a line': () => placeLine(part, 'l2', at, 100, 'new'),
  };
  const costs = Object.entries(edits).map(([name, edit]): [string, number] => [
    name,
    milliseconds(() => {
      difference(part, fillGaps(edit(), toneOf));
    }),
  ]);
  const [slowest, most] = costs.reduce((worst, cost) => (cost[1] > worst[1] ? cost : worst));
  const closing = milliseconds(() => closeUp(struck, { from: 0, to: (count / 2) * pieceFrames }));
  const filling = milliseconds(() => fillGaps(gappy, toneOf));
  const states = milliseconds(() => lineStates(part, lines));
  return [
    [
      'Closing up 5,000 strikes in a part of 20,000 pieces on two tracks',
      `${closing.toFixed(1)} ms`,
      'under 50 ms',
    ],
    [
      `Any single edit in it, with its difference: the slowest of ${costs.length}, “${slowest}”`,
      `${most.toFixed(1)} ms`,
      'under 16 ms',
    ],
    ['Room tone into 1,000 gaps on each track', `${filling.toFixed(1)} ms`, 'under 16 ms'],
    ['States of 500 lines with 500 readings', `${states.toFixed(1)} ms`, 'under 16 ms'],
  ];
}
