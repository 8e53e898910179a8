import { seededRandom } from '../base/random';
import { dbToAmplitude } from '../base/units';

/** Sounds that are no speech, made from noise and tones; every one can be made again from its seed. */
const framesOf = (seconds: number, rateHz: number) => Math.round(seconds * rateHz);

/** One-pole low-pass, in place. */
function lowPass(samples: Float32Array, hertz: number, rateHz: number): Float32Array {
  const keep = Math.exp((-2 * Math.PI * hertz) / rateHz);
  let state = 0;
  for (let i = 0; i < samples.length; i++) samples[i] = state = samples[i] * (1 - keep) + state * keep;
  return samples;
}

function highPass(samples: Float32Array, hertz: number, rateHz: number): Float32Array {
  const low = lowPass(samples.slice(), hertz, rateHz);
  return samples.map((value, i) => value - low[i]);
}

export function noise(frames: number, seed: number): Float32Array {
  const random = seededRandom(seed);
  return Float32Array.from({ length: frames }, () => random() + random() + random() - 1.5);
}

function rms(samples: Float32Array): number {
  let sum = 0;
  for (const value of samples) sum += value * value;
  return Math.sqrt(sum / Math.max(1, samples.length));
}

export function scaleToRms(samples: Float32Array, dbfs: number): Float32Array {
  const gain = dbToAmplitude(dbfs) / Math.max(rms(samples), 1e-9);
  return samples.map((value) => value * gain);
}

/** A treated room: noise falling towards the treble, steady enough to be a noise floor. */
export function room(frames: number, rateHz: number, seed: number, dbfs = -65): Float32Array {
  return scaleToRms(highPass(lowPass(noise(frames, seed), 2500, rateHz), 60, rateHz), dbfs);
}

/** Mains hum with its harmonics. */
export function hum(frames: number, rateHz: number, dbfs: number, mainsHz = 50): Float32Array {
  const tone = (i: number) =>
    [1, 0.6, 0.35, 0.2].reduce(
      (sum, level, k) => sum + level * Math.sin((2 * Math.PI * mainsHz * (k + 1) * i) / rateHz),
      0,
    );
  return scaleToRms(
    Float32Array.from({ length: frames }, (_, i) => tone(i)),
    dbfs,
  );
}

export function breath(rateHz: number, seed: number): Float32Array {
  const frames = framesOf(0.34, rateHz);
  const body = highPass(lowPass(noise(frames, seed), 3500, rateHz), 700, rateHz);
  return scaleToRms(
    body.map((value, i) => value * Math.sin((Math.PI * i) / frames) ** 1.5),
    -46,
  );
}

/** A hand clap: a sharp rise, a decay of a few hundredths of a second, a short tail of the room. */
export function clap(rateHz: number, seed: number): Float32Array {
  const frames = framesOf(0.25, rateHz);
  const body = highPass(noise(frames, seed), 600, rateHz);
  const shape = (i: number) => Math.exp(-i / (0.006 * rateHz)) + 0.04 * Math.exp(-i / (0.05 * rateHz));
  const shaped = body.map((value, i) => value * shape(i));
  const peak = shaped.reduce((highest, value) => Math.max(highest, Math.abs(value)), 0);
  return shaped.map((value) => (value / peak) * dbToAmplitude(-5));
}

/** A page turned beside the microphone: crackling noise that swells and falls. */
export function pageTurn(rateHz: number, seed: number): Float32Array {
  const frames = framesOf(0.5, rateHz);
  const random = seededRandom(seed + 1);
  const crackle = highPass(noise(frames, seed), 1500, rateHz);
  let gain = 0;
  return scaleToRms(
    crackle.map((value, i) => {
      if (i % framesOf(0.004, rateHz) === 0) gain = random() ** 3;
      return value * gain * Math.sin((Math.PI * i) / frames);
    }),
    -36,
  );
}

/** Breath of a “p” that hits the microphone: a low thump. */
export function plosive(rateHz: number, seed: number): Float32Array {
  const frames = framesOf(0.08, rateHz);
  const body = lowPass(lowPass(noise(frames, seed), 120, rateHz), 200, rateHz);
  const thump = body.map(
    (value, i) => value * Math.exp(-i / (0.02 * rateHz)) * Math.min(1, i / (0.003 * rateHz)),
  );
  return scaleToRms(thump, -14);
}

/** A door elsewhere in the house: low, soft, long. */
export function door(rateHz: number, seed: number): Float32Array {
  const frames = framesOf(0.7, rateHz);
  const body = lowPass(lowPass(noise(frames, seed), 180, rateHz), 300, rateHz);
  return scaleToRms(
    body.map((value, i) => value * Math.exp(-i / (0.12 * rateHz)) * Math.min(1, i / (0.01 * rateHz))),
    -42,
  );
}

/** A mouse button. */
export function click(rateHz: number, seed: number): Float32Array {
  const body = highPass(noise(framesOf(0.012, rateHz), seed), 2500, rateHz);
  return scaleToRms(
    body.map((value, i) => value * Math.exp(-i / (0.0015 * rateHz))),
    -40,
  );
}

/** Sea and concertina: slow swells of noise, and reed tones that breathe. */
export function bed(lengthSeconds: number, rateHz: number, seed: number): Float32Array {
  const frames = framesOf(lengthSeconds, rateHz);
  const sea = scaleToRms(
    lowPass(noise(frames, seed), 700, rateHz).map(
      (value, i) => value * (0.55 + 0.45 * Math.sin((2 * Math.PI * i) / (rateHz * 7.3))),
    ),
    -32,
  );
  const melody = [293.7, 349.2, 440, 392, 349.2, 329.6, 293.7, 261.6];
  const noteFrames = framesOf(1.5, rateHz);
  const reed = (i: number) => {
    const frequency = melody[Math.floor(i / noteFrames) % melody.length];
    const place = (i % noteFrames) / noteFrames;
    const tone = [1, 0.7, 0.5, 0.4, 0.25, 0.2].reduce(
      (sum, level, k) => sum + level * Math.sin((2 * Math.PI * frequency * (k + 1) * i) / rateHz),
      0,
    );
    return tone * Math.sin(Math.PI * place) ** 0.6;
  };
  const concertina = scaleToRms(
    Float32Array.from({ length: frames }, (_, i) => reed(i)),
    -30,
  );
  return sea.map((value, i) => value + concertina[i]);
}
