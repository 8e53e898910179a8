import { addCues } from '../timeline/cueEdits';
import { cuePlacement, placeCueTake } from '../timeline/cueTakes';
import { addGuide } from '../timeline/guides';
import { PartRenderer } from '../timeline/partRenderer';
import { memorySources } from '../testing/mixing';
import { emptyTimeline } from '../timeline/timeline';
import { filmSounding } from './filmSound';

const rateHz = 48_000;
const seconds = (count: number) => Math.round(count * rateHz);

test('the picture’s own sound goes down under lines that are recorded, and only there', async () => {
  const piece = (source: string, length: number) => ({
    kind: 'audio' as const,
    ...{ source, channel: 0, from: 0, length: seconds(length), gainDb: 0 },
  });
  const cue = (number: string, from: number, to: number) => ({
    ...{ id: number, number, from: seconds(from), to: seconds(to), text: '', note: '' },
  });
  const guided = addGuide(emptyTimeline(['Voice']), {
    id: 'guide',
    name: 'Film',
    pieces: [piece('film', 10)],
  });
  const cued = addCues(guided, [cue('1', 2, 4), cue('2', 6, 7)]);
  const said = new Map([['track-1', [piece('take', 3.5)]]]);
  const timeline = placeCueTake(cued, said, cuePlacement(cue('1', 2, 4), seconds(0.5), seconds(1)));
  const settings = { joins: { joinFrames: 0 }, rateHz };
  const levelAt = async (db: number, at: number) => {
    const sounding = filmSounding(timeline, 'guide', db, settings);
    // The film is 0.5 all along, the take is silent: what is heard is the film.
    const reader = memorySources({
      film: [new Float32Array(seconds(10)).fill(0.5)],
      take: [new Float32Array(seconds(4))],
    });
    const part = new PartRenderer(sounding, reader);
    const [[value]] = await part.mix('playing', seconds(at), 1);
    return Math.round(200 * Math.log10(value / 0.5)) / 10;
  };
  expect(await levelAt(-20, 1)).toBe(0);
  expect(await levelAt(-20, 3)).toBe(-20);
  expect(await levelAt(-20, 4.5)).toBe(0);
  // Nothing is recorded in the second.
  expect(await levelAt(-20, 6.5)).toBe(0);
  expect(await levelAt(0, 3)).toBe(0);
});
