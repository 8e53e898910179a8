import { readFileSync } from 'node:fs';
import { BlobReader, TextWriter, ZipReader } from '@zip.js/zip.js';
import { manifestName } from '../formats/projectManifest';
import { apply, inverse } from './history';
import { heardTracks } from './heard';
import {
  historyOfStruckPieces,
  timelineOfStruckPieces,
  type StruckStep,
  type StruckTimeline,
} from './struckPieces';
import { clockOf } from './timeline';

interface OldPart {
  timeline: StruckTimeline;
  history: StruckStep[];
  historyAt: number;
}

/**
 * A project file as written before parts had one clock: two tracks, one of which has slipped by 300 frames.
 */
async function oldPart(): Promise<OldPart> {
  const zip = new ZipReader(new BlobReader(new Blob([readFileSync('e2e/files/project-version-4.parola')])), {
    useWebWorkers: false,
  });
  const entry = (await zip.getEntries()).find(({ filename }) => filename === manifestName);
  if (!entry || entry.directory) throw new Error('no manifest');
  return (JSON.parse(await entry.getData(new TextWriter())) as { parts: OldPart[] }).parts[0];
}

const struckFrames = (pieces: readonly { length: number; struck: boolean }[]) =>
  pieces.reduce((sum, { length, struck }) => sum + (struck ? length : 0), 0);

test('the file has a slip: its tracks are heard for different times', async () => {
  const { timeline } = await oldPart();
  expect(timeline.tracks.map(({ pieces }) => struckFrames(pieces))).toEqual([1300, 1000]);
});

test('what was struck on all is struck; what was on one alone is silent there and heard on the other, in step', async () => {
  const { timeline } = await oldPart();
  const now = timelineOfStruckPieces(timeline);
  expect(now.struck).toEqual([{ from: 5000, to: 6000 }]);
  expect(heardTracks(now).map(({ table }) => table.frames)).toEqual([7000, 7000]);
  const at = (track: number) => now.tracks[track].table.slice(2000, 2300);
  expect(at(0)).toEqual([{ kind: 'silence', length: 300 }]);
  expect(at(1)).toMatchObject([{ kind: 'audio', source: 'take-one', from: 2000, length: 300 }]);
  // The reading that fell silent is still in the stack of takes.
  expect(now.places).toHaveLength(2);
  expect(now.marks).toEqual(timeline.marks);
  expect(JSON.stringify(now)).not.toContain('"struck":true');
});

test('its history is told anew: back to the beginning, and on to what could be redone', async () => {
  const { timeline, history, historyAt } = await oldPart();
  const { steps, historyAt: at } = historyOfStruckPieces(timeline, history, historyAt);
  expect(steps.map(({ label }) => label)).toEqual(history.map(({ label }) => label));
  expect(at).toBe(historyAt);
  const now = timelineOfStruckPieces(timeline);
  let back = now;
  const heard: number[] = [];
  for (let i = at - 1; i >= 0; i--) {
    back = apply(back, inverse(steps[i].difference));
    heard.push(clockOf(back).heardFrames);
  }
  // Both strikes, then the slip undone: 300 struck on all; no strike; no strike; nothing recorded.
  expect(heard).toEqual([8000, 7700, 8000, 8000, 0]);
  expect(steps.slice(0, at).reduce((timeline, { difference }) => apply(timeline, difference), back)).toEqual(
    now,
  );
  const louder = apply(now, steps[at].difference);
  expect(louder.tracks[0].table.pieces[0]).toMatchObject({ gainDb: 3 });
});

test('steps that do not fit are left out with all beyond them; the present stays', async () => {
  const { timeline, history, historyAt } = await oldPart();
  const broken = history.map((step, i) =>
    i === 2
      ? { ...step, difference: { ...step.difference, marks: { at: 99, removed: [], added: [{} as never] } } }
      : step,
  );
  const { steps, historyAt: at } = historyOfStruckPieces(timeline, broken, historyAt);
  expect(at).toBe(2);
  expect(steps).toHaveLength(3);
});
