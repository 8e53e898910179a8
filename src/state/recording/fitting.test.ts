import { addCharacters, addCues, changeCharacter, changeCues } from '@/core/timeline/cueEdits';
import { cuePlacement, placeCueTake } from '@/core/timeline/cueTakes';
import { addGuide } from '@/core/timeline/guides';
import { addTrack } from '@/core/timeline/tracks';
import { concat, noise } from '@/core/testing/signals';
import { recordedOf } from '@/storage/sources';
import { stretchSource } from '@/workers/stretchSource';
import { chooseCue, cuesFromGuide } from '../cues/cues';
import { dismissAll } from '../page/notices';
import { rememberSource, useProject } from '../project/openProject';
import { setCueSettings } from '../project/settings';
import { edit, undo, usePart } from '../sheet/part';
import { messages, openFresh, rate, recordAudio, stored } from '../testing/fixture';
import { figuresKey, measureTakes, useCueFigures } from './cueFigures';
import { circleTakeOfCue, hearTakeOfCue } from './cueTakes';
import { takesOfCue } from './cuePlan';
import { fitChosenTake } from './fitting';

type Stretch = typeof stretchSource;
const mockStretch = (...given: Parameters<Stretch>) =>
  jest.requireActual<{ stretchSource: Stretch }>('@/workers/stretchSource').stretchSource(...given);
jest.mock('../page/jobs', () => ({
  importClient: { run: (_job: string, ...given: Parameters<Stretch>) => mockStretch(...given) },
  runShown: (_text: string, run: (options: object) => Promise<unknown>) =>
    run({ signal: new AbortController().signal, progress: () => undefined }),
}));

const seconds = (count: number) => Math.round(count * rate);
let seed = 0;
/** Sounds and silences in turn, in a room; sounds last so many seconds, silences are negative. */
const spoken = (...lengths: number[]) => {
  const audio = concat(
    ...lengths.map((length) => noise(seconds(Math.abs(length)), length > 0 ? -20 : -90, ++seed)),
  );
  const room = noise(audio.length, -65, ++seed);
  return audio.map((value, i) => value + room[i]);
};

let projectId = '';

/** A cue from 2 to 4 s whose guide is spoken so, and a take of it that was recorded from 1.5 s on. */
async function prepare(guide: number[], own: number[]) {
  ({
    project: { id: projectId },
  } = await openFresh());
  const film = await recordAudio(spoken(...guide));
  undo();
  const recorded = await recordAudio(spoken(...own));
  undo();
  const take = { ...recorded, cue: 'cue', name: 'Cue 1, take 1' };
  rememberSource(take);
  const [[guidePiece]] = recordedOf(film, film.frames).values();
  const cue = { id: 'cue', number: '1', from: seconds(2), to: seconds(4), text: '', note: '' };
  edit('cue', (timeline) => {
    const guided = addGuide(timeline, { id: 'guide', name: 'Film', pieces: [guidePiece] });
    return placeCueTake(
      addCues(guided, [cue]),
      recordedOf(take, take.frames),
      cuePlacement(cue, seconds(0.5), seconds(1)),
    );
  });
  chooseCue('cue');
  dismissAll();
  return { cue, take };
}

const heardPieces = () =>
  usePart.getState().timeline.tracks[0].table.pieces.map(({ kind, length }) => [kind, length / rate]);
const cueNow = () => {
  const cue = usePart.getState().timeline.cueSheet?.cues[0];
  if (!cue) throw new Error('no cue');
  return cue;
};
const takesNow = () => takesOfCue(cueNow(), useProject.getState().sources.values());

async function figures(id: string) {
  await measureTakes(cueNow(), takesNow());
  return useCueFigures.getState().figures.get(figuresKey(cueNow(), { id }));
}

const guide = [-2, 0.8, -0.4, 0.8, -2];

test('a late take with too long a pause begins with its guide, its pause cut; the speed stays', async () => {
  const { take } = await prepare(guide, [-0.65, 0.8, -0.7, 0.8, -0.6]);
  const before = await figures(take.id);
  expect(before?.late).toBeCloseTo(0.15, 1);
  expect(before?.long).toBeCloseTo(0.3, 1);
  expect(before?.against).toBe('guide');
  await fitChosenTake();
  const after = await figures(take.id);
  expect(Math.abs(after?.late ?? 9)).toBeLessThan(0.02);
  expect(Math.abs(after?.long ?? 9)).toBeLessThan(0.03);
  expect(takesNow()).toHaveLength(1);
  expect(messages().at(-1)).toMatch(
    /^Take 1 is fitted: moved 0\.1\d s earlier, pauses 0\.(29|30|31) s shorter\.$/,
  );
  const fitted = heardPieces();
  // Once more it stays as it is.
  await fitChosenTake();
  expect(heardPieces()).toEqual(fitted);
  undo();
  expect(await figures(take.id)).toEqual(before);
  await stored(projectId);
});

test('a short one gets longer pauses, filled; heard again after another it is as it was fitted', async () => {
  const { cue, take } = await prepare(guide, [-0.5, 0.8, -0.25, 0.8, -0.9]);
  await fitChosenTake();
  const fitted = heardPieces();
  expect(fitted.filter(([kind]) => kind === 'audio')).toHaveLength(2);
  const other = { ...take, id: 'other', take: 2 };
  rememberSource(other);
  hearTakeOfCue(cue, other);
  expect(heardPieces()).not.toEqual(fitted);
  hearTakeOfCue(cue, take);
  expect(heardPieces()).toEqual(fitted);
});

test('without a pause to change it is spoken faster, as far as that is allowed, as a take of its own', async () => {
  const { take } = await prepare([-2, 1.6, -2], [-0.5, 1.7, -1]);
  await fitChosenTake();
  const [first, second] = takesNow();
  expect(first.id).toBe(take.id);
  expect(second).toMatchObject({ name: 'Cue 1, take 2', note: 'take 1, fitted', state: 'kept' });
  expect(messages().at(-1)).toMatch(/[567]\.\d % faster/);
  const after = await figures(second.id);
  expect(Math.abs(after?.late ?? 9)).toBeLessThan(0.03);
  expect(Math.abs(after?.long ?? 9)).toBeLessThan(0.04);
  undo();
  expect(heardPieces().filter(([kind]) => kind === 'audio')).toEqual([['audio', 3.2]]);

  setCueSettings({ stretch: 0.02 });
  await fitChosenTake();
  expect(messages().at(-1)).toMatch(
    /2\.0 % faster\. It is still 0\.0\d s too long: more than 2 % is not allowed\./,
  );
});

test('a take of another cue is fitted as one of this cue, and who spoke beside it is left alone', async () => {
  const { cue, take } = await prepare([-2, 1.6, -2], [-0.5, 1.7, -1]);
  const both = { ...take, cue: 'other', name: 'Cue 9, take 1', trackIds: ['track-1', 'track-2'] };
  rememberSource(both);
  edit('two voices', (before) => {
    const named = addCharacters(addTrack(before, { id: 'track-2', name: 'Two' }), ['One'], () => 'one');
    const own = changeCharacter(named, 'one', { track: 'track-1' });
    const given = changeCues(own, new Set(['cue']), () => ({ character: 'one' }));
    const bare = { ...given, places: [] };
    const [voice] = recordedOf(take, take.frames).values();
    const recorded = new Map([['track-1', voice] as const, ['track-2', voice] as const]);
    return placeCueTake(bare, recorded, cuePlacement(cue, seconds(0.5), seconds(1)));
  });
  const beside = usePart.getState().timeline.tracks[1].table.pieces;
  await fitChosenTake();
  expect(takesNow().map(({ cue: of, name }) => [of, name])).toEqual([
    ['cue', 'Cue 1, take 1'],
    ['other', 'Cue 9, take 1'],
  ]);
  expect(usePart.getState().timeline.tracks[1].table.pieces).toEqual(beside);
  expect(Math.abs((await figures(takesNow()[0].id))?.long ?? 9)).toBeLessThan(0.04);
});

test('turns of the guide become cues, once', async () => {
  await prepare([-2, 0.8, -0.4, 0.8, -2, 1.5, -0.9, 1.2, -1], [-0.5, 1, -1]);
  await cuesFromGuide();
  const cues = usePart.getState().timeline.cueSheet?.cues ?? [];
  // The first of three is the cue that was there.
  expect(cues.map(({ number }) => number)).toEqual(['1', '2', '3']);
  const times = cues.slice(1).map(({ from, to }) => [from / rate, to / rate]);
  [
    [6, 7.5],
    [8.4, 9.6],
  ].forEach(([from, to], index) => {
    expect(Math.abs(times[index][0] - from)).toBeLessThan(0.05);
    expect(Math.abs(times[index][1] - to)).toBeLessThan(0.05);
  });
  dismissAll();
  await cuesFromGuide();
  expect(messages()).toEqual(['No turn is found in the guide that is not a cue already.']);
});

test('where no guide speaks the cue itself is kept to; silence cannot be fitted', async () => {
  const { take } = await prepare([-6], [-0.8, 1.9, -0.8]);
  expect(await figures(take.id)).toMatchObject({ against: 'cue' });
  expect((await figures(take.id))?.late).toBeCloseTo(0.3, 1);
  await fitChosenTake();
  expect(Math.abs((await figures(takesNow().at(-1)?.id ?? ''))?.late ?? 9)).toBeLessThan(0.03);
  await prepare([-6], [-3]);
  await fitChosenTake();
  expect(messages()).toEqual(['Take 1 cannot be fitted: nobody is heard speaking in it.']);
  circleTakeOfCue();
  expect(takesNow()[0].circled).toBe(true);
});
