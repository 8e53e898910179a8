import { decimal, say } from '../../texts/say';
import { median } from '../base/statistics';
import { formatDb, formatTime } from '../base/units';
import type { Measurement } from '../loudness/measure';
import type { TimeRange } from '../loudness/places';
import { dcWorthDbfs } from './levelPlan';
import type { Measure } from './measures';
import type { Verdict } from './verdicts';

/** Something no limit speaks of, and a client refuses or a listener hears all the same. */
export interface Look {
  kind:
    | 'clipped'
    | 'silence'
    | 'dc'
    | 'dead-side'
    | 'inverted'
    | 'same-sides'
    | 'jump'
    | 'uneven'
    | 'uneven-room';
  message: string;
  places: TimeRange[];
}

/** What a look is called where there is no room for its sentence. */
export const lookNames: Readonly<Record<Look['kind'], string>> = {
  clipped: say`clipped words`,
  silence: say`digital silence`,
  dc: say`DC offset`,
  'dead-side': say`a dead side`,
  inverted: say`an inverted side`,
  'same-sides': say`two equal sides`,
  jump: say`jumps at joins`,
  uneven: say`the level against the other parts`,
  'uneven-room': say`the room against the other parts`,
};

/** Sides further apart than this are one dead side; *common practice*. */
const deadSideDb = 40;
const invertedBelow = -0.5;
/** A part whose speech is further than this from the median of all stands out; *common practice*. */
const unevenDb = 3;
/** The same for the room, which is far softer; *common practice*. */
const unevenRoomDb = 6;

/**
 * What should be looked at in measured audio. `wantsStereo` is false where the same in both sides is meant.
 */
export function lookOver(measurement: Measurement, wantsStereo = false): Look[] {
  const { clippedRuns, clippedSamples, silences, dcOffsetDbfs, stereo } = measurement;
  const looks: Look[] = [];
  if (clippedSamples > 0)
    looks.push({
      kind: 'clipped',
      message: say`${clippedSamples} samples are at full scale, in ${clippedRuns.length === 1 ? say`one run` : say`${clippedRuns.length} runs`}: a word is clipped. It cannot be repaired; read it again.`,
      places: clippedRuns,
    });
  if (silences.length > 0) {
    const seconds = silences.reduce((sum, { from, to }) => sum + to - from, 0);
    looks.push({
      kind: 'silence',
      message: say`${decimal(seconds, 2)} s are digital silence: a hole in the room.`,
      places: silences,
    });
  }
  if (dcOffsetDbfs > dcWorthDbfs)
    looks.push({
      kind: 'dc',
      message: say`The wave stands ${formatDb(dcOffsetDbfs, 'dBFS')} off the middle (DC offset): it costs headroom and clicks at cuts.`,
      places: [],
    });
  if (stereo) looks.push(...lookAtSides(stereo, wantsStereo));
  return looks;
}

function lookAtSides(
  { balanceDb, correlation, identical }: NonNullable<Measurement['stereo']>,
  wantsStereo: boolean,
): Look[] {
  if (Math.abs(balanceDb) > deadSideDb) {
    const dead = balanceDb > 0 ? say`right` : say`left`;
    return [
      {
        kind: 'dead-side',
        message: say`The ${dead} side is silent or nearly so: half of the listeners' speakers say nothing.`,
        places: [],
      },
    ];
  }
  if (correlation < invertedBelow)
    return [
      {
        kind: 'inverted',
        message: say`The two sides are opposite (correlation ${decimal(correlation, 2)}): on one speaker the voice vanishes. Turn one side's polarity round.`,
        places: [],
      },
    ];
  if (identical && wantsStereo)
    return [
      {
        kind: 'same-sides',
        message: say`Both sides are the same: this is mono in two channels.`,
        places: [],
      },
    ];
  return [];
}

/** Where a fault can be looked at: in seconds of the measured audio. Faults of the whole have no place. */
export function placesOf({ measure, passes, max, value }: Verdict, measurement: Measurement): TimeRange[] {
  if (passes) return [];
  const { loudest, durationSeconds, headSeconds, tailSeconds, longestPause } = measurement;
  const over = max !== null && value > max;
  const loudPlaces = (limit: number) =>
    loudest
      .filter(({ dbfs }) => dbfs > limit)
      .map(({ at }) => ({ from: at, to: at }))
      .sort((a, b) => a.from - b.from);
  const byMeasure: Partial<Record<Measure, () => TimeRange[]>> = {
    samplePeakDbfs: () => (over ? loudPlaces(max) : []),
    // Between samples a peak can be higher than at them.
    truePeakDbtp: () => (over ? loudPlaces(Math.min(max, (loudest[0]?.dbfs ?? 0) - 0.5)) : []),
    headSeconds: () => [{ from: 0, to: headSeconds }],
    tailSeconds: () => [{ from: durationSeconds - tailSeconds, to: durationSeconds }],
    longestPauseSeconds: () => [longestPause],
    momentaryMaxLufs: () => loudPlaces((loudest[0]?.dbfs ?? 0) - 0.5),
    shortTermMaxLufs: () => loudestStretch(measurement),
  };
  return byMeasure[measure]?.() ?? [];
}

function loudestStretch({ shortTerm: { lufs, stepSeconds } }: Measurement): TimeRange[] {
  let best = -1;
  lufs.forEach((value, i) => {
    if (best < 0 || value > lufs[best]) best = i;
  });
  return best < 0 ? [] : [{ from: best * stepSeconds, to: best * stepSeconds + 3 }];
}

/**
 * How far one part's speech and room are from those of all parts, dB over (positive) or under; 0 while there
 * is nothing to compare with.
 */
export function differencesOf(
  measurement: Measurement,
  all: readonly Measurement[],
): { speechDb: number; roomDb: number } {
  const difference = (level: (of: Measurement) => number) => {
    const known = all.map(level).filter(Number.isFinite);
    const own = level(measurement);
    return known.length < 2 || !Number.isFinite(own) ? 0 : own - median(known);
  };
  return { speechDb: difference((of) => of.speechDbfs), roomDb: difference((of) => of.noiseFloorDbfs) };
}

export function lookAtDifferences({ speechDb, roomDb }: { speechDb: number; roomDb: number }): Look[] {
  const looks: Look[] = [];
  const against = (db: number) => `${formatDb(Math.abs(db))} ${db > 0 ? say`louder` : say`softer`}`;
  if (Math.abs(speechDb) > unevenDb)
    looks.push({
      kind: 'uneven',
      message: say`Speech is ${against(speechDb)} than in the middle of all parts: a listener reaches for the volume.`,
      places: [],
    });
  if (Math.abs(roomDb) > unevenRoomDb)
    looks.push({
      kind: 'uneven-room',
      message: say`The room is ${against(roomDb)} than in the middle of all parts: it is heard where one part follows another.`,
      places: [],
    });
  return looks;
}

/** “00:12.300, 00:41.020 and 3 more”. */
export function namePlaces(places: readonly TimeRange[], most = 3): string {
  const shown = places.slice(0, most).map(({ from }) => formatTime(from, true));
  const more = places.length - shown.length;
  return `${shown.join(', ')}${more > 0 ? say` and ${more} more` : ''}`;
}
