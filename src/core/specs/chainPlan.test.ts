import { gridOf } from '../chain/cells';
import { ChainedVoice } from '../chain/chained';
import { measureWork } from '../chain/chainWork';
import { usualStep } from '../chain/settings';
import { learnRoom } from '../chain/softerRoom';
import { dbToAmplitude } from '../base/units';
import { memorySources } from '../testing/mixing';
import { trackOf } from '../testing/chains';
import { voiceAt48 } from '../testing/prompts';
import { audioPiece } from '../testing/naiveTimeline';
import { add, noise, sine } from '../testing/signals';
import { scaleToRms } from '../testing/sounds';
import { changeChain } from '../timeline/mixEdits';
import { PartRenderer } from '../timeline/partRenderer';
import { PieceTable } from '../timeline/pieces';
import { soundingOf } from '../timeline/sounding';
import { emptyTimeline, type Timeline } from '../timeline/timeline';
import { findSpec } from './builtIn';
import { defaultChainLimits, rehearseChains, type ChainLimits, type ChainRehearsal } from './chainPlan';
import { measurePart } from './partMeter';
import type { Spec } from './spec';
import { judge } from './verdicts';

const rateHz = 48_000;
const named = (name: string): Spec => {
  const spec = findSpec(name);
  if (!spec) throw new Error('no spec');
  return spec;
};
const retail = named('Audiobook retail');

/** A reading of recorded prompts with RMS and room as they are wanted, dBFS. */
const { audio: clean } = voiceAt48('en', 5, 2);
function reading(
  rmsDbfs: number,
  roomDbfs: number,
  room: (frames: number) => Float32Array = (frames) => noise(frames, -20, 6),
) {
  // Enough of a second of head for a tone, and no more than the client takes.
  const voice = scaleToRms(clean.subarray(0.2 * rateHz), rmsDbfs);
  return add(voice, scaleToRms(room(voice.length), roomDbfs));
}

async function plan(
  audio: Float32Array,
  {
    spec = retail,
    limits = defaultChainLimits,
    learned = true,
    chain = { name: '', steps: [] } as Parameters<typeof changeChain>[2] & object,
  } = {} as {
    spec?: Spec;
    limits?: ChainLimits;
    learned?: boolean;
    chain?: Parameters<typeof changeChain>[2] & object;
  },
) {
  const sources = memorySources({ take: [audio] });
  const empty = emptyTimeline(['Voice']);
  const [track] = empty.tracks;
  const timeline: Timeline = {
    ...empty,
    tracks: [{ ...track, table: PieceTable.of([audioPiece('take', 0, audio.length)]) }],
  };
  const profile = learned ? learnRoom(audio.subarray(0, 0.7 * rateHz), gridOf(rateHz)) : null;
  const voice = ChainedVoice.of(trackOf(audio), [], rateHz);
  const { recorded } = await measureWork(voice, audio.length);
  let tries = 0;
  const rehearsal = await rehearseChains(
    spec,
    { mostReductionDb: 6 },
    limits,
    () => Promise.resolve([{ id: track.id, chain, levels: recorded, profile }]),
    async (chains, output) => {
      tries++;
      const changed = changeChain(timeline, track.id, chains ? chains[track.id] : chain);
      const sounding = { ...soundingOf(changed, { joins: { joinFrames: 480 }, rateHz }), output };
      const part = new PartRenderer(sounding, sources);
      const { measurement } = await measurePart(part, sounding, 1, null, { progress: () => undefined });
      return { measurement, reductionDb: part.reductionDb };
    },
  );
  return { ...rehearsal, tries, steps: rehearsal.chains?.[track.id].steps ?? [] };
}

/** The verdicts of levels alone: head and tail are for other fixes. */
function failing(spec: Spec, { predicted }: ChainRehearsal) {
  if (!predicted) return ['nothing'];
  return judge(spec, predicted)
    .filter(({ passes, measure }) => !passes && measure !== 'headSeconds' && measure !== 'tailSeconds')
    .map(({ measure }) => measure);
}

test('gain and ceiling that are enough get no chain', async () => {
  const planned = await plan(reading(-24, -70));
  expect(planned.chains).toBeNull();
  expect(planned.plan.possible).toBe(true);
});

test('−26 dBFS RMS in a room of −62 is brought inside the limits of audiobook retail, by a softer room', async () => {
  const planned = await plan(reading(-26, -62));
  expect(planned.plan.possible).toBe(true);
  expect(failing(retail, planned)).toEqual([]);
  expect(planned.steps.map(({ kind }) => kind)).toContain('room');
  expect(planned.cost).toMatch(/room \d(\.5)? dB softer/);
  // The least that does it: not even 5 dB.
  expect(planned.steps.find((step) => step.kind === 'room')?.amountDb).toBeLessThan(5);
  expect(planned.tries).toBeLessThan(14);
}, 60_000);

test('without room tone to learn from it is the pauses that go down', async () => {
  const planned = await plan(reading(-26, -62), { learned: false });
  expect(failing(retail, planned)).toEqual([]);
  expect(planned.steps.map(({ kind }) => kind)).toContain('pauses');
  expect(planned.cost).toMatch(/pauses \d(\.5)? dB softer/);
}, 60_000);

test('rumble that is most of the room is taken away first, and that can be all', async () => {
  const rumble = (frames: number) => add(sine(rateHz, frames / rateHz, 25, -20), noise(frames, -40, 8));
  const planned = await plan(reading(-26, -60, rumble));
  expect(failing(retail, planned)).toEqual([]);
  expect(planned.steps.map(({ kind }) => kind)).toEqual(['rumble']);
  expect(planned.cost).toBe('rumble under 80 Hz off');
}, 60_000);

test('peaks and RMS that cannot both be met by a limiter: the reading is made evener, and no more than it takes', async () => {
  const audio = reading(-27, -75).map((sample, i) => {
    // A stressed word in every second that stands 8 dB out.
    const at = (i % rateHz) / rateHz;
    return at > 0.4 && at < 0.55 ? sample * dbToAmplitude(8) : sample;
  });
  const spec: Spec = { ...retail, limits: { ...retail.limits, rmsDbfs: { min: -18.5, max: -17 } } };
  const planned = await plan(audio, { spec });
  expect(planned.plan).toMatchObject({ possible: true });
  expect(failing(spec, planned)).toEqual([]);
  expect(planned.steps.map(({ kind }) => kind)).toContain('even');
  expect(planned.cost).toMatch(/dB evener$/);
}, 60_000);

test('more than the limits allow is refused, with what to do at the microphone', async () => {
  const loud = await plan(reading(-30, -48));
  expect(loud.chains).toBeNull();
  expect(loud.plan).toMatchObject({
    possible: false,
    why: expect.stringMatching(/Come closer to the microphone/) as string,
  });
  const narrow = await plan(reading(-26, -62), {
    limits: { mostRoomDb: 1, mostPausesDb: 0.5, mostEvenDb: 1 },
  });
  expect(narrow.plan.possible).toBe(false);
}, 60_000);

test('a client who wants the voice unprocessed gets no chain, only the reason', async () => {
  const spec = { ...retail, unprocessed: true };
  const planned = await plan(reading(-26, -58), { spec });
  expect(planned.chains).toBeNull();
  expect(planned.plan.possible).toBe(false);
});

test('a chain that is there already goes further instead of twice', async () => {
  const chain = {
    name: 'Mine',
    steps: [{ ...usualStep('pauses', 'mine'), rangeDb: 3, ratio: 4, thresholdDb: -48 }],
  };
  const planned = await plan(reading(-28, -58), { learned: false, chain });
  expect(failing(retail, planned)).toEqual([]);
  const pauses = planned.steps.filter(({ kind }) => kind === 'pauses');
  expect(pauses).toHaveLength(1);
  expect(pauses[0]).toMatchObject({ id: 'mine' });
}, 60_000);
