import { addMark, strike } from '@/core/timeline/edits';
import { setFade } from '@/core/timeline/joints';
import { PieceTable, type Piece } from '@/core/timeline/pieces';
import type { Timeline } from '@/core/timeline/timeline';
import { light } from '../theme/palette';
import { drawLineTags, drawMark, drawProposal, lineTagBox } from './drawMarks';
import { drawRowInk, type RowInk } from './drawSheet';
import { contentWidth, margins, rowBox, staveBox, type SheetGeometry } from './sheetGeometry';

/** A drawing context that writes down what is drawn, with the colours it is drawn in. */
interface Stroke {
  what: 'rect' | 'text' | 'line';
  colour: string;
  x: number;
  y: number;
  x2: number;
  y2: number;
  text: string;
}
function paper() {
  const strokes: Stroke[] = [];
  let at = { x: 0, y: 0 };
  const state = {
    fillStyle: '',
    strokeStyle: '',
    globalAlpha: 1,
    lineWidth: 1,
    font: '',
    textAlign: '',
    textBaseline: '',
  };
  const add = (stroke: Partial<Stroke>) =>
    strokes.push({ what: 'line', colour: '', x: 0, y: 0, x2: 0, y2: 0, text: '', ...stroke });
  const context = Object.assign(state, {
    fillRect: (x: number, y: number, width: number, height: number) =>
      add({ what: 'rect', colour: state.fillStyle, x, y, x2: x + width, y2: y + height }),
    fillText: (text: string, x: number, y: number) =>
      add({ what: 'text', colour: state.fillStyle, x, y, text }),
    moveTo: (x: number, y: number) => (at = { x, y }),
    lineTo: (x: number, y: number) => {
      add({ colour: state.strokeStyle, ...at, x2: x, y2: y });
      at = { x, y };
    },
    measureText: (text: string) => ({ width: text.length * 7 }),
    beginPath: () => undefined,
    stroke: () => undefined,
    fill: () => undefined,
    setLineDash: () => undefined,
  });
  return { context: context as unknown as CanvasRenderingContext2D, strokes };
}

const rateHz = 48_000;
const geometry: SheetGeometry = {
  width: 840,
  framesPerRow: 12 * rateHz,
  staves: 1,
  staveScale: 1,
  frames: 24 * rateHz,
};
const audio = (from: number, length: number, more: Partial<Piece> = {}): Piece =>
  ({ kind: 'audio', source: 'a', channel: 0, from, length, gainDb: 0, ...more }) as Piece;
const timelineOf = (...pieces: Piece[]): Timeline => ({
  tracks: [{ id: 't', name: 'Voice', table: PieceTable.of(pieces) }],
  struck: [],
  marks: [],
  places: [],
});
const ink = (timeline: Timeline, more: Partial<RowInk> = {}): RowInk => ({
  geometry,
  rateHz,
  page: light,
  timeline,
  peaks: () => ({ low: -0.25, high: 0.25 }),
  spectrum: null,
  focus: null,
  ...more,
});
const x = (seconds: number) => margins.left + (seconds / 12) * contentWidth(geometry);

describe('a row', () => {
  test('has one column of ink a pixel, as high as the sound, up to where the sound ends', () => {
    const { context, strokes } = paper();
    drawRowInk(context, ink(timelineOf(audio(0, 6 * rateHz))), 0);
    const columns = strokes.filter(({ what, colour }) => what === 'rect' && colour === light.ink);
    expect(Math.abs(columns.length - contentWidth(geometry) / 2)).toBeLessThan(2);
    const { centre, half } = staveBox(geometry, 0, 0);
    for (const column of columns) {
      expect(column.x2).toBeLessThan(x(6) + 1.5);
      expect(column.y).toBeCloseTo(centre - 0.25 ** 0.6 * half, 5);
      expect(column.y2).toBeCloseTo(centre + 0.25 ** 0.6 * half, 5);
    }
  });

  test('of twenty thousand pieces has no more ink than one of a single piece', () => {
    const pieces = Array.from({ length: 20_000 }, (_, i) => audio((i * 7919) % 100_000, 28));
    const struck = Array.from({ length: 2000 }, (_, i) => ({ from: i * 252, to: i * 252 + 28 }));
    const { context, strokes } = paper();
    drawRowInk(context, ink({ ...timelineOf(...pieces), struck }), 0);
    const columns = strokes.filter(({ what }) => what === 'rect');
    expect(columns.length).toBeLessThanOrEqual(2 * Math.ceil(contentWidth(geometry)) + 4);
    // Edges nearer than a few pixels are not drawn.
    expect(strokes.filter(({ what }) => what === 'line').length).toBeLessThan(3000);
  });

  test('struck passages are pale with a stroke through them; a gain is written, a fade is a slope', () => {
    const whole = timelineOf(
      audio(0, 4 * rateHz),
      audio(90_000, 4 * rateHz, { gainDb: 3 } as Partial<Piece>),
    );
    const edited = setFade(
      strike(whole, { from: 2 * rateHz, to: 3 * rateHz }),
      { from: 4 * rateHz, to: 5 * rateHz },
      'fadeIn',
      'power',
    );
    const { context, strokes } = paper();
    drawRowInk(context, ink(edited), 0);
    const pale = strokes.filter(({ colour }) => colour === light.struckInk);
    expect(pale.every((one) => one.x >= x(2) - 1.5 && one.x2 <= x(3) + 1.5)).toBe(true);
    const [stroke] = strokes.filter(({ colour }) => colour === light.vermilion);
    expect(stroke.x).toBeCloseTo(x(2), 3);
    expect(stroke.x2).toBeCloseTo(x(3), 3);
    expect(stroke.y).toBeGreaterThan(stroke.y2);
    expect(strokes.find(({ text }) => text === '+3.0 dB')?.x).toBeCloseTo(x(4) + 4, 3);
    const slope = strokes.find(({ what, colour }) => what === 'line' && colour === light.blue);
    expect(slope).toMatchObject({ x: expect.closeTo(x(4), 3), x2: expect.closeTo(x(5), 3) });
    expect(slope && slope.y2 < slope.y).toBe(true);
  });

  test('room tone is ruled, not inked; spectra are asked for by the stretch of the source', () => {
    const tone = { ...audio(0, 2 * rateHz), kind: 'tone', start: 0, end: 48_000, seed: 1 } as Piece;
    const asked: number[][] = [];
    const { context, strokes } = paper();
    const timeline = timelineOf(audio(1000, 6 * rateHz), tone, audio(500_000, 8 * rateHz));
    drawRowInk(context, ink(timeline, { spectrum: (_c, _s, _ch, from, to) => asked.push([from, to]) }), 0);
    expect(strokes.filter(({ colour }) => colour === light.sage)).toHaveLength(2);
    expect(asked).toEqual([
      [1000, 1000 + 6 * rateHz],
      [500_000, 500_000 + 4 * rateHz],
    ]);
    expect(strokes.filter(({ what }) => what === 'rect')).toEqual([]);
  });

  test('the stave edits are for has its name in another ink', () => {
    const two = timelineOf(audio(0, rateHz));
    const timeline = { ...two, tracks: [...two.tracks, { ...two.tracks[0], id: 'u', name: 'Guest' }] };
    const { context, strokes } = paper();
    drawRowInk(context, ink(timeline, { focus: 'u', geometry: { ...geometry, staves: 2 } }), 0);
    expect(strokes.find(({ text }) => text === 'Guest')?.colour).toBe(light.blue);
    expect(strokes.find(({ text }) => text === 'Voice')?.colour).toBe(light.faintInk);
  });
});

describe('over the rows', () => {
  const over = { geometry, page: light, firstRow: 0, lastRow: 1 };

  test('a flub over two rows has its sign once and its wave in both; out of sight nothing is drawn', () => {
    const { marks } = addMark(timelineOf(audio(0, 20 * rateHz)), {
      id: 'f',
      kind: 'flub',
      at: 10 * rateHz,
      length: 4 * rateHz,
      name: 'Flub 1',
    });
    const { context, strokes } = paper();
    drawMark(context, over, marks[0]);
    expect(strokes.filter(({ text }) => text === '∿')).toHaveLength(1);
    const waves = strokes.filter(({ what }) => what === 'line');
    for (const row of [0, 1])
      expect(waves.some(({ y }) => Math.abs(y - rowBox(geometry, row).bottom) < 5)).toBe(true);
    const hidden = paper();
    drawMark(hidden.context, { ...over, firstRow: 5, lastRow: 9 }, marks[0]);
    expect(hidden.strokes).toEqual([]);
  });

  test('a proposal has a query in the margin, and says why only while it is looked at', () => {
    const proposal = { from: 2 * rateHz, to: 3 * rateHz, reason: 'A pause of 2.2 s' };
    const [quiet, current] = [false, true].map((value) => {
      const { context, strokes } = paper();
      drawProposal(context, over, { ...proposal, current: value });
      return strokes.filter(({ what }) => what === 'text').map(({ text }) => text);
    });
    expect(quiet).toEqual(['?']);
    expect(current).toEqual(['?', 'A pause of 2.2 s']);
  });

  test('the number of a line stands where it can be taken hold of', () => {
    const tag = { markId: 'm', at: 3 * rateHz, label: '12' };
    const { context, strokes } = paper();
    drawLineTags(context, over, [tag]);
    const box = lineTagBox(geometry, tag);
    const text = strokes.find(({ what }) => what === 'text');
    expect(text?.text).toBe('12');
    expect(text && text.x >= box.x && text.x < box.x + box.width).toBe(true);
    expect(text && text.y > box.y && text.y < box.y + box.height).toBe(true);
  });
});
