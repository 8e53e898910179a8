import { powerToDb } from '../base/units';

/**
 * What the room sounds like by itself: its power at places of the spectrum, which stand a bin apart at
 * first and then ever wider.
 */
export interface RoomProfile {
  /** Distance of the first places, the first of which is at 0 Hz, in hertz. */
  readonly stepHz: number;
  /** Power of a bin of that width at each place, dB against full scale; as many as `roomPlaces` has. */
  readonly levels: readonly number[];
}

/** The first so many places are a step apart; hum stands there. */
const single = 40;
/** After them each is so much further. */
const wider = 1.06;

/** Where a profile is told, in steps: 0, 1, 2 … 39, 41.3 and so on, as far as half the highest rate goes. */
export const roomPlaces: readonly number[] = (() => {
  const places = Array.from({ length: single }, (_, place) => place);
  for (let at = (single - 1) * wider; places[places.length - 1] < 1024; at *= wider) places.push(at);
  return places;
})();

/** The faintest that is told, dB. */
const faintestDb = -160;

/** A profile from the mean power of bins 0 … n, a step apart. Beyond the last bin it goes on as it ends. */
export function profileOf(powers: ArrayLike<number>, stepHz: number): RoomProfile {
  const last = powers.length - 1;
  const levels = roomPlaces.map((place, index) => {
    if (index < single) return levelOf(powers[Math.min(last, place)]);
    const before = (roomPlaces[index - 1] + place) / 2;
    const after = ((roomPlaces[index + 1] ?? place) + place) / 2;
    const from = Math.min(last, Math.ceil(before));
    const to = Math.min(last, Math.max(from, Math.floor(after)));
    let sum = 0;
    for (let bin = from; bin <= to; bin++) sum += powers[bin];
    return levelOf(sum / (to - from + 1));
  });
  return { stepHz, levels };
}

const levelOf = (power: number) =>
  Math.max(faintestDb, Math.round(powerToDb(Math.max(power, 1e-16)) * 10) / 10);

/**
 * Power of `bins` bins, `stepHz` apart from 0 Hz on, as a profile has it: straight in dB between its
 * places.
 */
export function powersOfProfile(profile: RoomProfile, bins: number, stepHz: number): Float64Array {
  const powers = new Float64Array(bins);
  const ratio = stepHz / profile.stepHz;
  let place = 0;
  for (let bin = 0; bin < bins; bin++) {
    const at = bin * ratio;
    while (place + 2 < roomPlaces.length && roomPlaces[place + 1] <= at) place++;
    const [from, to] = [roomPlaces[place], roomPlaces[place + 1]];
    const part = Math.min(1, (at - from) / (to - from));
    const level = profile.levels[place] + part * (profile.levels[place + 1] - profile.levels[place]);
    // A wider bin holds more of the same noise.
    powers[bin] = 10 ** (level / 10) * ratio;
  }
  return powers;
}
