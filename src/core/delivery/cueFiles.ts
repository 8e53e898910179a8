import { fileEnding, fillTemplate } from '../formats/fileNames';
import type { FileFormat } from '../specs/fileFormat';
import { audioFrameOf, rates } from '../cues/timecode';
import { timecodeAt } from '../cues/cueCsv';
import { cueSheetOf } from '../timeline/cueEdits';
import type { Character, Cue } from '../timeline/cues';
import { heardOfCue, heardTakes, tracksOfCue, type PlacedTake } from '../timeline/cueTakes';
import { bedsOf } from '../timeline/mixEdits';
import { recordedFrames } from '../timeline/overlay';
import { PieceTable, silence } from '../timeline/pieces';
import type { Range } from '../timeline/range';
import { soundingOf, soundingOfTracks, type Sounding } from '../timeline/sounding';
import { clockOf, type Timeline } from '../timeline/timeline';
import { broadcastInfo, type PartFile, type PartToDeliver, type ProjectToDeliver } from './partFiles';

/** What is in the files of cues. */
export const cueFileKinds = ['cues', 'characters', 'tracks'] as const;
export type CueFileKind = (typeof cueFileKinds)[number];

export interface CueDelivery {
  /** A file for each cue; one for each character, or for each track, from the beginning of the picture on. */
  readonly what: CueFileKind;
  /** Of each cue: what is heard of it, or its circled takes or all of them as they were recorded. */
  readonly takes: 'chosen' | 'circled' | 'all';
  readonly format: FileFormat;
  readonly naming: string;
}

/** A take of a cue with where it belongs. */
export interface CueTake extends PlacedTake {
  readonly id: string;
  readonly cue: string;
  readonly take: number;
  readonly circled: boolean;
  /** Milliseconds since 1970. */
  readonly startedAt: number;
}

/**
 * The files of the cues of a part, in order. Each says where it belongs: its first sample's place on the
 * timecode, counted from 00:00:00:00 in samples of the file (EBU Tech 3285, TimeReference).
 */
export function cueFiles(
  part: PartToDeliver,
  project: ProjectToDeliver,
  takes: readonly CueTake[],
  delivery: CueDelivery,
): PartFile[] {
  const file = (
    sounding: Sounding,
    range: Range,
    sheetFrame: number,
    told: Told,
    startedAt = project.createdAt,
  ): PartFile => fileOf(part, project, delivery, { sounding, range, sheetFrame, told, startedAt });
  switch (delivery.what) {
    case 'cues':
      return filesOfCues(part, project, takes, delivery, file);
    case 'characters':
      return filesOfCharacters(part, project, file);
    case 'tracks':
      return filesOfTracks(part, project, file);
  }
}

/** What a name says of a file besides its part. */
interface Told {
  readonly cue: string;
  readonly character: string;
  readonly take: string;
}

type MakeFile = (
  sounding: Sounding,
  range: Range,
  sheetFrame: number,
  told: Told,
  startedAt?: number,
) => PartFile;

interface Content {
  readonly sounding: Sounding;
  readonly range: Range;
  readonly sheetFrame: number;
  readonly told: Told;
  readonly startedAt: number;
}

function fileOf(
  part: PartToDeliver,
  project: ProjectToDeliver,
  { format, naming }: CueDelivery,
  { sounding, range, sheetFrame, told, startedAt }: Content,
): PartFile {
  const sheet = cueSheetOf(part.timeline);
  const { rateHz } = project.settings;
  const own = {
    project: project.name,
    part: part.name,
    number: part.number,
    parts: part.of,
    voice: told.character,
    spec: project.spec.name,
    date: project.date,
    rateHz: format.rateHz,
    in: timecodeAt(sheetFrame, sheet, rateHz).replace(/[:;]/g, '-'),
  };
  const what = [told.cue && `cue ${told.cue}`, told.character, told.take && `take ${told.take}`];
  return {
    partId: part.id,
    partName: part.name,
    fileName: `${fillTemplate(naming, { ...own, ...told })}.${fileEnding(format.container)}`,
    format,
    sounding,
    range,
    broadcast:
      format.container === 'wav'
        ? broadcastInfo(format, {
            description: [project.name, part.name, ...what.filter(Boolean)].join(', '),
            reference: part.id,
            recordedAt: startedAt,
            timeReference:
              audioFrameOf(sheet.start, rates[sheet.rate], format.rateHz) +
              Math.round((sheetFrame * format.rateHz) / rateHz),
          })
        : undefined,
  };
}

const nameOf = (characters: readonly Character[], cue: Cue) =>
  characters.find(({ id }) => id === cue.character)?.name ?? '';

/** Voices without beds, as a client who may want them unprocessed has them. */
function voicesOf(
  { timeline }: PartToDeliver,
  project: ProjectToDeliver,
  ids: ReadonlySet<string>,
): Sounding {
  const beds = new Set(bedsOf(timeline).map(({ id }) => id));
  const settings = { ...project.settings, dry: project.spec.unprocessed };
  return soundingOf(timeline, settings, (id) => ids.has(id) && !beds.has(id));
}

function filesOfCues(
  part: PartToDeliver,
  project: ProjectToDeliver,
  takes: readonly CueTake[],
  delivery: CueDelivery,
  file: MakeFile,
): PartFile[] {
  const { timeline } = part;
  const { cues, characters } = cueSheetOf(timeline);
  const clock = clockOf(timeline);
  return cues.flatMap((cue): PartFile[] => {
    const own = takes.filter((take) => take.cue === cue.id);
    const told = { cue: cue.number, character: nameOf(characters, cue) };
    if (delivery.takes !== 'chosen')
      return own
        .filter(({ circled }) => circled || delivery.takes === 'all')
        .map(({ take, from, recorded, startedAt }) => {
          const tracks = [...recorded.values()].map((pieces) => ({ table: PieceTable.of(pieces) }));
          const range = { from: 0, to: recordedFrames(recorded) };
          const sounding = soundingOfTracks(tracks, project.settings);
          return file(sounding, range, from, { ...told, take: String(take) }, startedAt);
        });
    const heard = heardOfCue(timeline, cue);
    if (!heard) return [];
    const ids = tracksOfCue(timeline, cue);
    const [first] = heardTakes(timeline, cue, ids);
    const chosen = own.find(({ id }) => id === first);
    const range = { from: clock.sheetToHeard(heard.from), to: clock.sheetToHeard(heard.to) };
    return [
      file(
        voicesOf(part, project, ids),
        range,
        heard.from,
        { ...told, take: chosen ? String(chosen.take) : '' },
        chosen?.startedAt,
      ),
    ];
  });
}

/** A part of which nothing is heard but what some cues have. */
function withOnly(timeline: Timeline, cues: readonly Cue[]): Timeline {
  const heard = cues.map((cue) => ({ ids: tracksOfCue(timeline, cue), range: heardOfCue(timeline, cue) }));
  return {
    ...timeline,
    tracks: timeline.tracks.map((track) => {
      const bare = PieceTable.of(track.table.frames > 0 ? [silence(track.table.frames)] : []);
      const table = heard.reduce(
        (result, { ids, range }) =>
          range && ids.has(track.id)
            ? result.replace(range.from, range.to, track.table.slice(range.from, range.to))
            : result,
        bare,
      );
      return { ...track, table };
    }),
  };
}

function filesOfCharacters(part: PartToDeliver, project: ProjectToDeliver, file: MakeFile): PartFile[] {
  const { cues, characters } = cueSheetOf(part.timeline);
  return characters.flatMap(({ id, name }) => {
    const own = cues.filter(({ character }) => character === id);
    if (!own.some((cue) => heardOfCue(part.timeline, cue))) return [];
    const timeline = withOnly(part.timeline, own);
    const all = new Set(timeline.tracks.map((track) => track.id));
    const sounding = voicesOf({ ...part, timeline }, project, all);
    const range = { from: 0, to: clockOf(timeline).heardFrames };
    return [file(sounding, range, 0, { cue: '', character: name, take: '' })];
  });
}

function filesOfTracks(part: PartToDeliver, project: ProjectToDeliver, file: MakeFile): PartFile[] {
  return part.timeline.tracks.flatMap(({ id, name, table }) => {
    if (!table.pieces.some(({ kind }) => kind === 'audio')) return [];
    const range = { from: 0, to: clockOf(part.timeline).heardFrames };
    const sounding = voicesOf(part, project, new Set([id]));
    return [file(sounding, range, 0, { cue: '', character: name, take: '' })];
  });
}
