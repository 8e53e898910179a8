import { say } from '../../texts/say';
import { exhaustive } from '../base/errors';
import { amplitudeToDb } from '../base/units';
import { stepsOn } from '../chain/chain';
import { describeStep } from '../chain/stepText';
import { appName } from '../base/version';
import type { BroadcastInfo } from '../formats/bext';
import { fileEnding, fillTemplate, safeName } from '../formats/fileNames';
import type { FileMark } from '../formats/fileMarks';
import type { Cover, SoundTags } from '../formats/id3';
import { marksCsv, marksVtt, scriptWithTimes, type ListedMark } from '../formats/markFiles';
import { sameFormat, type FileFormat } from '../specs/fileFormat';
import type { Spec } from '../specs/spec';
import { markTraits } from '../timeline/markTraits';
import type { Range } from '../timeline/range';
import { plainOutput } from '../timeline/output';
import { lineReadings } from '../timeline/scriptLines';
import { heardStrip, heardTracks, type HeardTrack } from '../timeline/heard';
import { guidesOf, writtenFramesOf } from '../timeline/guides';
import { bedsOf, otherSide, stripOf } from '../timeline/mixEdits';
import {
  silent,
  soundingOf,
  soundingOfTracks,
  type Sounding,
  type SoundingSettings,
} from '../timeline/sounding';
import { clockOf, type Timeline } from '../timeline/timeline';

/** What is said of a recording in a file that holds it. */
export interface RecordingToDeliver {
  readonly id: string;
  readonly name: string;
  /** Milliseconds since 1970. */
  readonly startedAt: number;
  readonly circled?: boolean;
}

export interface ProjectToDeliver {
  readonly name: string;
  readonly spec: Spec;
  /** Milliseconds since 1970. */
  readonly createdAt: number;
  /** Today, “2026-11-26”. */
  readonly date: string;
  readonly sources: readonly RecordingToDeliver[];
  readonly settings: SoundingSettings;
}

export interface PartToDeliver {
  readonly id: string;
  readonly name: string;
  readonly script: readonly { readonly id: string; readonly text: string }[];
  /** Its place among the parts of its project, from 1, and how many there are. */
  readonly number: number;
  readonly of: number;
  readonly timeline: Timeline;
  /** A passage of the sheet that is written alone; the whole part when null. */
  readonly selection: Range | null;
}

/**
 * What is in the files of a part: all voices and beds together; all voices without the beds; each voice in a
 * file of its own; the beds alone; the guides left and the voices right; all of it with the guides. Muting
 * and soloing are of listening and change none of them.
 */
export const deliveredSounds = ['mix', 'voices', 'each', 'bed', 'beside', 'guided'] as const;
export type DeliveredSound = (typeof deliveredSounds)[number];

export interface DeliveryOptions {
  readonly what: DeliveredSound;
  /** Instead of the spec's own file and its further ones. */
  readonly format: FileFormat | null;
  /** The template of names; the spec's when null. */
  readonly naming: string | null;
  readonly cover: { readonly cover: Cover } | null;
  readonly marksCsv: boolean;
  readonly marksVtt: boolean;
  readonly script: boolean;
}

/** One file to write: heard range [from, to) of a part. */
export interface PartFile {
  partId: string;
  partName: string;
  fileName: string;
  format: FileFormat;
  sounding: Sounding;
  range: Range;
  /** What its voices went through, in words; nothing where they are as they were recorded. */
  chains?: string[];
  /** Where the file belongs in time, for a Broadcast WAV; missing for a plain file. */
  broadcast?: BroadcastInfo;
  /** In frames of the file's audio at the project's rate. */
  marks?: FileMark[];
  tags?: SoundTags;
  cover?: Cover;
}

export interface TextFile {
  fileName: string;
  text: string;
}

/** The formats a delivery wants of each part. */
export const formatsOfSpec = ({ file, more }: Spec): FileFormat[] => [
  file,
  ...more.filter((other) => !sameFormat(other, file)),
];

/**
 * The files a delivery has of a part, in order, with the texts that go with them; none where nothing is
 * heard. Names can be the same as those of another part.
 */
export function filesOfPart(
  part: PartToDeliver,
  project: ProjectToDeliver,
  options: DeliveryOptions,
): { file: PartFile; texts: TextFile[] }[] {
  const { timeline, selection } = part;
  const range = heardRange(timeline, selection);
  if (range.to <= range.from || writtenFramesOf(timeline) === 0) return [];
  const passage = selection ? `${part.name} passage` : part.name;
  const marks = heardMarks(timeline, range);
  const chapters = chapterMarks(marks, passage);
  const formats = options.format ? [options.format] : formatsOfSpec(project.spec);
  const guided = guidesOf(timeline).length > 0;
  const chains = toldChains(timeline, project.spec);
  // A client who wants the voice as it was recorded has it so, whatever chain is on it.
  const settings = { ...project.settings, dry: project.spec.unprocessed };
  const files = soundsOf(timeline, options.what, settings).flatMap(({ voice, apart, sounding }) =>
    formats.map((wanted): PartFile => {
      const format = options.what === 'beside' && guided ? { ...wanted, channels: 2 as const } : wanted;
      const base = nameOf(part, passage, voice, apart, project, format, options);
      return {
        partId: part.id,
        partName: part.name,
        fileName: `${base}.${fileEnding(format.container)}`,
        format,
        sounding,
        chains,
        range,
        broadcast: format.broadcast ? broadcastOf(part, project, range.from, format) : undefined,
        marks: format.marks ? chapters : undefined,
        tags: format.container === 'mp3' ? tagsOf(part, passage, voice, project) : undefined,
        cover: format.container === 'mp3' ? options.cover?.cover : undefined,
      };
    }),
  );
  // Texts belong to the part, not to each of its files.
  const base = nameOf(part, passage, namesOf(timeline), null, project, formats[0], options);
  const texts = textsOf(base, part, range, marks, project.settings.rateHz, options);
  return files.map((file, index) => ({ file, texts: index === 0 ? texts : [] }));
}

/** What the voices of a part go through, for whom it is delivered to. */
function toldChains(timeline: Timeline, { unprocessed }: Spec): string[] {
  const told = timeline.tracks.flatMap(({ id, name }) => {
    const { chain } = stripOf(timeline, id);
    const steps = stepsOn(chain);
    if (steps.length === 0) return [];
    return [`${name}${chain?.name ? ` (“${chain.name}”)` : ''}: ${steps.map(describeStep).join(' ')}`];
  });
  return unprocessed && told.length > 0 ? [unprocessedText] : told;
}

const unprocessedText = say`As it was recorded: this client wants the voice unprocessed, so the chain was left out.`;

const namesOf = ({ tracks }: Timeline) => tracks.map(({ name }) => name).join(say` and `);

interface DeliveredSounding {
  voice: string;
  /** What of the part it is, where its file has to be told from others of it. */
  apart: string | null;
  sounding: Sounding;
}

const everything = () => true;
/** The two sides of a pair count half each (*common practice*). */
const halfDb = amplitudeToDb(0.5);

/**
 * The guides on the left and the voices on the right, as a client compares a statement with what was made of
 * it; each as loud as in the mix.
 */
function besideGuides(timeline: Timeline, settings: SoundingSettings): Sounding {
  const { mix, ...bare } = timeline;
  const voices: Timeline = { ...bare, ...(mix && { mix: { ...mix, beds: [] } }) };
  const sounding = soundingOf(voices, settings, everything, everything);
  const placed = sounding.tracks.map((track, index): Sounding['tracks'][number] => {
    if (index >= timeline.tracks.length) return { ...track, side: 'left' };
    if (!track.side) return { ...track, side: 'right' };
    const { levelDb = 0, points = [] } = track.strip ?? {};
    return {
      ...track,
      side: 'right',
      ...(track.side && { pair: track.side }),
      strip: { ...track.strip, levelDb: levelDb + halfDb, place: 0, points },
    };
  });
  return { ...sounding, tracks: placed };
}

/**
 * A voice alone has its level and the part's gain and ceiling, in mono, wherever it is put in the mix;
 * offsets were measured of all together. One that says nothing has no file, nor have beds that are none.
 */
function soundsOf(timeline: Timeline, what: DeliveredSound, settings: SoundingSettings): DeliveredSounding[] {
  const { tracks, output } = timeline;
  const voice = namesOf(timeline);
  const beds = new Set(bedsOf(timeline).map(({ id }) => id));
  const whole = { voice, apart: null, sounding: soundingOf(timeline, settings) };
  const own = output && { ...output, dcOffsets: plainOutput.dcOffsets };
  /** The other side of a track's pair, unheard: a chain turns both down together. */
  const otherOf = (id: string): HeardTrack[] => {
    const other = tracks.findIndex((track) => track.id === otherSide(timeline, id));
    if (other < 0) return [];
    const { table, side } = heardTracks(timeline)[other];
    return [{ table, pair: side, strip: silent({ side }, heardStrip(timeline, tracks[other].id, settings)) }];
  };
  switch (what) {
    case 'mix':
      return [whole];
    case 'voices':
      return beds.size === 0
        ? [whole]
        : [{ voice, apart: 'voices', sounding: soundingOf(timeline, settings, (id) => !beds.has(id)) }];
    case 'bed': {
      const sounding = soundingOf({ ...timeline, output: own }, settings, (id) => beds.has(id));
      return sounding.beds ? [{ voice, apart: 'bed', sounding }] : [];
    }
    case 'each': {
      if (tracks.length === 1 && beds.size === 0) return [whole];
      return heardTracks(timeline).flatMap(({ table, side }, index) => {
        const { id, name } = tracks[index];
        if (!table.pieces.some(({ kind }) => kind === 'audio')) return [];
        const strip = heardStrip(timeline, id, settings);
        const pair = side && strip?.chain && { pair: side };
        const track = { table, ...pair, ...(strip && { strip: { ...strip, place: 0 } }) };
        const sounding = soundingOfTracks([track, ...(pair ? otherOf(id) : [])], settings, own);
        return { voice: name, apart: name, sounding };
      });
    }
    case 'beside':
    case 'guided': {
      if (guidesOf(timeline).length === 0) return [whole];
      const plain = { ...timeline, output: own };
      const sounding =
        what === 'beside'
          ? besideGuides(plain, settings)
          : soundingOf(plain, settings, everything, everything);
      return [{ voice, apart: what === 'beside' ? 'beside the guide' : 'with the guide', sounding }];
    }
    default:
      return exhaustive(what);
  }
}

function nameOf(
  part: PartToDeliver,
  passage: string,
  voice: string,
  apart: string | null,
  project: ProjectToDeliver,
  { rateHz }: FileFormat,
  { naming }: DeliveryOptions,
): string {
  const template = naming ?? project.spec.naming;
  const name = fillTemplate(template, {
    project: project.name,
    part: passage,
    number: part.number,
    parts: part.of,
    voice,
    take: circledTake(part.timeline, project.sources),
    spec: project.spec.name,
    date: project.date,
    rateHz,
  });
  const told = apart === voice && template.includes('{voice}');
  return apart === null || told ? name : `${name}-${safeName(apart)}`;
}

const tagsOf = (
  part: PartToDeliver,
  passage: string,
  voice: string,
  project: ProjectToDeliver,
): SoundTags => ({
  title: passage,
  album: project.name,
  artist: voice,
  track: part.number,
  tracks: part.of,
  date: project.date,
  comment: '',
});

function heardRange(timeline: Timeline, selection: Range | null): Range {
  const clock = clockOf(timeline);
  if (!selection) return { from: 0, to: clock.heardFrames };
  return { from: clock.sheetToHeard(selection.from), to: clock.sheetToHeard(selection.to) };
}

/** Marks on what is heard of a range, in frames from its start. */
function heardMarks(timeline: Timeline, range: Range): ListedMark[] {
  const clock = clockOf(timeline);
  return timeline.marks.flatMap((mark) => {
    const at = clock.sheetToHeard(mark.at);
    if (at < range.from || at >= range.to || clock.isStruck(mark.at)) return [];
    const end = Math.min(range.to, clock.sheetToHeard(mark.at + mark.length));
    return [{ kind: mark.kind, name: mark.name, at: at - range.from, length: Math.max(0, end - at) }];
  });
}

/**
 * Notes and part marks go to the client; flubs and lines are the studio's own. The first chapter begins at
 * the start.
 */
function chapterMarks(marks: readonly ListedMark[], title: string): ListedMark[] {
  const own = marks.filter(({ kind }) => markTraits[kind].chapter);
  if (own.length === 0 || own[0].at === 0) return own;
  return [{ kind: 'part', name: title, at: 0, length: 0 }, ...own];
}

function circledTake(timeline: Timeline, sources: readonly RecordingToDeliver[]): string {
  const placed = new Set(timeline.places.map(({ source }) => source));
  return sources.find(({ id, circled }) => circled && placed.has(id))?.name ?? '';
}

/** The earliest recording a part uses: when it was made. */
function firstTake(timeline: Timeline, sources: readonly RecordingToDeliver[]): RecordingToDeliver | null {
  const placed = new Set(timeline.places.map(({ source }) => source));
  const used = sources.filter(({ id }) => placed.has(id));
  return used.sort((a, b) => a.startedAt - b.startedAt)[0] ?? null;
}

/** The time in the file is its place in the part: a passage goes back to where it is from. */
function broadcastOf(
  part: PartToDeliver,
  project: ProjectToDeliver,
  from: number,
  format: FileFormat,
): BroadcastInfo {
  return broadcastInfo(format, {
    description: `${project.name}, ${part.name}`,
    reference: part.id,
    recordedAt: firstTake(part.timeline, project.sources)?.startedAt ?? project.createdAt,
    timeReference: Math.round((from / project.settings.rateHz) * format.rateHz),
  });
}

/** What a Broadcast WAV says of its origin, with this machine's offset from UTC. */
export function broadcastInfo(
  { rateHz, channels }: FileFormat,
  {
    reference,
    ...own
  }: { reference: string } & Pick<BroadcastInfo, 'description' | 'recordedAt' | 'timeReference'>,
): BroadcastInfo {
  return {
    ...own,
    originator: appName,
    originatorReference: reference.slice(0, 32),
    utcOffsetMinutes: -new Date(own.recordedAt).getTimezoneOffset(),
    codingHistory: `A=PCM,F=${rateHz},M=${channels === 1 ? 'mono' : 'stereo'},T=${appName}\r\n`,
  };
}

function textsOf(
  base: string,
  part: PartToDeliver,
  range: Range,
  marks: readonly ListedMark[],
  rateHz: number,
  options: DeliveryOptions,
): TextFile[] {
  const { timeline } = part;
  const texts: TextFile[] = [];
  if (options.marksCsv) texts.push({ fileName: `${base}_marks.csv`, text: marksCsv(marks, rateHz) });
  if (options.marksVtt) texts.push({ fileName: `${base}.vtt`, text: marksVtt(marks, rateHz) });
  if (options.script && part.script.length > 0) {
    const clock = clockOf(timeline);
    const starts = new Map<string, number>();
    for (const { line, from } of lineReadings(timeline)) {
      const at = clock.sheetToHeard(from);
      if (!clock.isStruck(from) && at >= range.from && at < range.to)
        starts.set(line, (at - range.from) / rateHz);
    }
    const lines = part.script.map(({ id, text }) => ({ text, seconds: starts.get(id) ?? null }));
    texts.push({ fileName: `${base}_script.txt`, text: scriptWithTimes(part.name, lines) });
  }
  return texts;
}
