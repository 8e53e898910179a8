import { seededRandom } from '../base/random';
import { apply, difference, inverse, type Step } from './history';
import { plainTimeline } from './stored';
import { hearTake, placeRecording, type Placement } from './takes';
import { strike, insertTime } from './edits';
import { substituteInStep, substituteSource } from './substitute';
import { emptyTimeline, sheetFramesOf, sourcesOf, type Timeline } from './timeline';

const take = (source: string, length: number) =>
  new Map([['track-1', [{ kind: 'audio' as const, source, channel: 0, from: 100, length, gainDb: 0 }]]]);

/** A part with a history in which two takes are recorded over each other, struck, moved and heard again. */
function session(seed: number) {
  const random = seededRandom(seed);
  let timeline: Timeline = emptyTimeline(['Voice']);
  const steps: Step[] = [];
  const states = [timeline];
  const step = (label: string, next: Timeline) => {
    steps.push({ label, difference: difference(timeline, next) });
    timeline = next;
    states.push(next);
  };
  const at = () => Math.floor(random() * (sheetFramesOf(timeline) + 1));
  step('one', placeRecording(timeline, take('line', 5000), { mode: 'continue' }));
  for (let i = 0; i < 30; i++) {
    const from = at();
    const range = { from, to: Math.min(sheetFramesOf(timeline), from + 400) };
    const placement: Placement = { mode: random() < 0.5 ? 'retake' : 'insert', at: from };
    const which = Math.floor(random() * 4);
    if (which === 0) step('take', placeRecording(timeline, take(`other-${i}`, 700), placement));
    if (which === 1) step('strike', strike(timeline, range));
    if (which === 2) step('gap', insertTime(timeline, from, 300));
    if (which === 3) step('hear', hearTake(timeline, 'line', range));
  }
  return { timeline, steps, states };
}

describe('a recording takes the place of another', () => {
  it.each([1, 2, 3, 4, 5, 6])(
    'in every state that undo and redo lead to, where nothing else changes (%i)',
    (seed) => {
      const { timeline, steps, states } = session(seed);
      const expected = states.map((state) =>
        JSON.parse(JSON.stringify(plainTimeline(state)).replaceAll('"line"', '"far"')),
      );
      const renamed = steps.map((step) => substituteInStep(step, 'line', 'far'));
      let now = substituteSource(timeline, 'line', 'far');
      expect(sourcesOf(now).has('line')).toBe(false);
      for (let i = renamed.length - 1; i >= 0; i--) {
        expect(JSON.parse(JSON.stringify(plainTimeline(now)))).toEqual(expected[i + 1]);
        now = apply(now, inverse(renamed[i].difference));
      }
      expect(sheetFramesOf(now)).toBe(0);
      for (const [i, { difference: change }] of renamed.entries()) {
        now = apply(now, change);
        expect(JSON.parse(JSON.stringify(plainTimeline(now)))).toEqual(expected[i + 1]);
      }
    },
  );

  it('leaves alone what does not name it', () => {
    const { timeline, steps } = session(3);
    expect(plainTimeline(substituteSource(timeline, 'nobody', 'far'))).toEqual(plainTimeline(timeline));
    expect(substituteInStep(steps[1], 'nobody', 'far')).toBe(steps[1]);
  });
});
