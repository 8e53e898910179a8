/**
 * Makes public/demo: the readings of the demo and of the practice reader as MP3, their text and what is
 * struck in demo.json, the film of the keepers as MP4, and where the flubs, claps and re-readings are in
 * truth.csv. Needs Debian's festival, festvox-us-slt-hts, flite, sox and ffmpeg; the result is committed.
 */
import { plainFormat, type FileFormat } from '@/core/specs/fileFormat';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { seededRandom } from '@/core/base/random';
import { dbToAmplitude } from '@/core/base/units';
import { MemoryTarget } from '@/core/formats/bytes';
import { writeSoundFile } from '@/core/formats/soundFile';
import { createMp3Encoder } from '@/core/formats/mp3Encoder';
import { summariesOf } from './summaries';
import { writeFilm } from './film';
import { film, interview, parts, reading, statement, type Event, type Part, type Voice } from './scenario';
import { concat } from '@/core/testing/signals';
import * as sounds from '@/core/testing/sounds';
import { rateHz, speak, type Variation } from './voices';

const folder = 'public/demo';
const bitRateKbps = 128 as const;
const seconds = (frames: number) => (frames / rateHz).toFixed(3);

interface Placed {
  event: Event;
  from: number;
  to: number;
}

function variationOf(seed: number): Variation {
  const random = seededRandom(seed);
  return {
    tempo: 0.94 + random() * 0.12,
    pitchCents: Math.round(random() * 120 - 60),
    trebleDb: Math.round((random() * 4 - 2) * 10) / 10,
  };
}

async function soundOf(part: Part, event: Event, seed: number): Promise<Float32Array> {
  const voice: Voice = ('voice' in event && event.voice) || part.voice;
  switch (event.kind) {
    case 'line':
      return levelled(clipped(await speak(part.script[event.line], voice), event.clippedWord ?? false));
    case 'again':
      return levelled(await speak(part.script[event.line], voice, variationOf(seed)));
    case 'flub': {
      const start = part.script[event.line].split(' ').slice(0, event.words).join(' ');
      const speech = levelled(await speak(`${start} ${event.slip}`, voice));
      return event.clap ? concat(speech, new Float32Array(rateHz * 0.5), sounds.clap(rateHz, seed)) : speech;
    }
    case 'pause':
      return new Float32Array(Math.round(event.seconds * rateHz));
    case 'breath':
      return sounds.breath(rateHz, seed);
    case 'door':
      return sounds.door(rateHz, seed);
    case 'click':
      return sounds.click(rateHz, seed);
  }
}

const levelled = (speech: Float32Array) => sounds.scaleToRms(speech, -20);

/** The loudest word driven into the converter's ceiling. */
function clipped(speech: Float32Array, wanted: boolean): Float32Array {
  if (!wanted) return speech;
  const from = Math.round(speech.length * 0.45);
  const to = Math.min(speech.length, from + Math.round(rateHz * 0.35));
  return speech.map((value, i) => (i >= from && i < to ? Math.max(-0.4, Math.min(0.4, value * 5)) : value));
}

async function read(part: Part, seed: number): Promise<{ audio: Float32Array; placed: Placed[] }> {
  const pieces: Float32Array[] = [new Float32Array(Math.round(part.headSeconds * rateHz))];
  const placed: Placed[] = [];
  let at = pieces[0].length;
  for (const [index, event] of part.events.entries()) {
    const sound = await soundOf(part, event, seed * 100 + index);
    pieces.push(sound);
    placed.push({ event, from: at, to: at + sound.length });
    at += sound.length;
  }
  pieces.push(new Float32Array(Math.round(part.tailSeconds * rateHz)));
  const speech = sounds.scaleToRms(concat(...pieces), part.levelDbfs);
  const room = sounds.room(speech.length, rateHz, seed);
  const mains = part.humDbfs === undefined ? null : sounds.hum(speech.length, rateHz, part.humDbfs);
  const full = part.events.some((event) => event.kind === 'line' && event.clippedWord);
  const ceiling = full ? 1 : dbToAmplitude(-3.4);
  const drive = full ? 1 / Math.max(...peaks(speech)) : 1;
  const audio = speech.map((value, i) => {
    const summed = softCeiling(value * drive, ceiling) + room[i] + (mains ? mains[i] : 0);
    return Math.max(-1, Math.min(1, summed));
  });
  return { audio, placed };
}

const peaks = (samples: Float32Array) => [
  samples.reduce((highest, value) => Math.max(highest, Math.abs(value)), 0),
];

/** Bends peaks over three quarters of the ceiling towards it. */
function softCeiling(value: number, ceiling: number): number {
  const knee = ceiling * 0.75;
  const magnitude = Math.abs(value);
  if (magnitude <= knee || ceiling === 1) return value;
  return Math.sign(value) * (knee + (ceiling - knee) * Math.tanh((magnitude - knee) / (ceiling - knee)));
}

async function writeMp3(name: string, audio: Float32Array) {
  const target = new MemoryTarget();
  const format: FileFormat = { ...plainFormat, container: 'mp3', encoding: 'pcm16', bitRateKbps, rateHz };
  async function* chunks() {
    yield [audio];
  }
  await writeSoundFile(chunks(), { format, rateHz, frames: audio.length }, target, {
    createMp3: createMp3Encoder,
  });
  writeFileSync(`${folder}/${name}.mp3`, target.toBytes());
}

/** Each voice on its own microphone, and 26 dB lower on the other's. */
async function readInterview(): Promise<Float32Array[]> {
  const tracks: Float32Array[][] = [[], []];
  const gap = () => tracks.forEach((track) => track.push(new Float32Array(Math.round(rateHz * 0.8))));
  gap();
  for (const [index, text] of interview.script.entries()) {
    const speaker = index % 2;
    const speech = levelled(await speak(text, interview.voices[speaker]));
    tracks[speaker].push(speech);
    tracks[1 - speaker].push(speech.map((value) => value * dbToAmplitude(-26)));
    gap();
  }
  return tracks.map((track, index) => {
    const audio = concat(...track);
    const noise = sounds.room(audio.length, rateHz, 70 + index);
    return audio.map((value, i) => softCeiling(value, dbToAmplitude(-3.4)) + noise[i]);
  });
}

/** The statement, and what the interpreter says over it: two recordings of one time. */
async function readStatement(): Promise<{ said: Float32Array; interpreted: Float32Array }> {
  const said: { at: number; audio: Float32Array }[] = [];
  const own: { at: number; audio: Float32Array }[] = [];
  const pause = Math.round(0.9 * rateHz);
  let at = Math.round(0.7 * rateHz);
  let free = 0;
  for (const sentence of statement.sentences) {
    const audio = levelled(await speak(sentence.said, statement.voice));
    said.push({ at, audio });
    const texts = 'slip' in sentence ? [sentence.slip, sentence.interpreted] : [sentence.interpreted];
    let begins = Math.max(at + Math.round(statement.lagSeconds * rateHz), free);
    for (const text of texts) {
      const spoken = levelled(await speak(text, statement.interpreter));
      own.push({ at: begins, audio: spoken });
      begins += spoken.length + Math.round(0.5 * rateHz);
    }
    free = begins;
    at += audio.length + pause;
  }
  const end = Math.max(at, free) + rateHz;
  const whole = (placed: typeof said, seed: number) => {
    const all = sounds.room(end, rateHz, seed);
    for (const { at: from, audio } of placed)
      audio.forEach((value, i) => (all[from + i] += softCeiling(value, dbToAmplitude(-3.4))));
    return all;
  };
  return { said: whole(said, 81), interpreted: whole(own, 82) };
}

/** A little off, as nobody is on time to the picture: seconds late, and how fast. */
const readings = [
  [0.06, 1.02],
  [0.12, 0.96],
  [-0.05, 1],
  [0.04, 1.05],
  [0.09, 0.93],
  [0, 1],
] as const;

/** A line of the film with where it stands, in pictures. */
interface FilmLine {
  number: string;
  from: number;
  to: number;
  character: string;
  text: string;
}

/**
 * The film’s sound, and the practice reader’s, one after another: each is as long as the film and has every
 * line where it belongs, a little off; in the first one goes wrong.
 */
async function readFilm(): Promise<{ guide: Float32Array; reader: Float32Array; lines: FilmLine[] }> {
  const perPicture = rateHz / film.rateHz;
  const lines: (FilmLine & { audio: Float32Array })[] = [];
  let at = film.headSeconds * film.rateHz;
  for (const [index, { by, after, text }] of film.lines.entries()) {
    at += Math.round(after * film.rateHz);
    const audio = levelled(await speak(text, film.characters[by].guide));
    const to = at + Math.ceil(audio.length / perPicture);
    lines.push({ number: String(index + 1), from: at, to, character: film.characters[by].name, text, audio });
    at = to;
  }
  const frames = (at + film.tailSeconds * film.rateHz) * perPicture;
  const lay = (into: Float32Array, audio: Float32Array, from: number) =>
    audio.forEach((value, i) => (into[from + i] += softCeiling(value, dbToAmplitude(-3.4))));
  const guide = sounds.room(frames, rateHz, 91);
  for (const { audio, from } of lines) lay(guide, audio, from * perPicture);
  const reader = sounds.room(2 * frames, rateHz, 92);
  for (const round of [0, 1])
    for (const [index, { from }] of lines.entries()) {
      const [late, tempo] = readings[(index + 3 * round) % readings.length];
      const { by, text } = film.lines[index];
      const said = round === 0 && index === film.slip.line ? film.slip.text : text;
      const audio = levelled(
        await speak(said, film.characters[by].reader, { tempo, pitchCents: 0, trebleDb: 0 }),
      );
      lay(reader, audio, round * frames + from * perPicture + Math.round(late * rateHz));
    }
  return { guide, reader, lines: lines.map(({ audio: _, ...line }) => line) };
}

/** The film with its sound; what the demo says of it. */
async function makeFilm() {
  const { guide, reader, lines } = await readFilm();
  await writeMp3(film.id, guide);
  await writeMp3('keepers-reader', reader);
  const pictures = Math.round((guide.length * film.rateHz) / rateHz);
  await writeFilm(`${folder}/${film.id}.mp4`, `${folder}/${film.id}.mp3`, pictures, film.rateHz);
  return {
    id: film.id,
    name: film.name,
    script: [],
    files: [],
    guide: { file: `${film.id}.mp3`, name: 'Film' },
    film: {
      ...{ file: `${film.id}.mp4`, width: 640, height: 360, frames: pictures },
      ...{ seconds: pictures / film.rateHz, rate: { num: film.rateHz, den: 1 } },
    },
    characters: film.characters.map(({ name }) => name),
    cues: lines,
    struck: [],
    flubs: [],
  };
}

async function main() {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const truth = ['file,event,line,start_s,end_s'];
  const described: object[] = [];
  for (const [index, part] of [...parts, reading].entries()) {
    const { audio, placed } = await read(part, index + 1);
    await writeMp3(part.id, audio);
    for (const { event, from, to } of placed) {
      const text = 'line' in event ? event.line + 1 : '';
      const kind = event.kind === 'flub' && event.clap ? 'flub-with-clap' : event.kind;
      if (kind !== 'pause') truth.push([part.id, kind, text, seconds(from), seconds(to)].join(','));
    }
    const struck = (part.struckEvents ?? []).map((event) => [placed[event].from, placed[event].to]);
    const flubs = placed.filter(({ event }) => event.kind === 'flub').map(({ from, to }) => [from, to]);
    described.push({
      id: part.id,
      name: part.name,
      script: part.script,
      files: [`${part.id}.mp3`],
      struck,
      flubs,
    });
  }
  const [practice] = described.splice(-1);
  const microphones = await readInterview();
  const files = ['boat-builder-1.mp3', 'boat-builder-2.mp3'];
  for (const [index, audio] of microphones.entries()) await writeMp3(files[index].replace('.mp3', ''), audio);
  described.push({
    id: interview.id,
    name: interview.name,
    script: interview.script,
    files,
    bed: { file: 'bed.mp3', from: 4, to: 15 },
    struck: [],
    flubs: [],
  });
  await writeMp3('bed', sounds.bed(24, rateHz, 9));
  const { said, interpreted } = await readStatement();
  await writeMp3('visitor', said);
  await writeMp3('interpretation', interpreted);
  described.push({
    id: statement.id,
    name: statement.name,
    script: statement.sentences.map((sentence) => sentence.interpreted),
    files: [],
    guide: { file: 'visitor.mp3', name: 'Visitor' },
    struck: [],
    flubs: [],
  });
  described.push(await makeFilm());
  const demo = {
    project: 'The Lamp House',
    spec: 'Audiobook retail',
    rateHz,
    summaries: await summariesOf(folder, rateHz),
    parts: [
      ...described.slice(0, 3),
      { ...practice, files: [], struck: [], flubs: [] },
      ...described.slice(3),
    ],
  };
  writeFileSync(`${folder}/demo.json`, JSON.stringify(demo, null, 1) + '\n');
  writeFileSync(`${folder}/truth.csv`, truth.join('\n') + '\n');
}

void main();
