import { format as formatDate } from 'date-fns';
import { create } from 'zustand';
import { appName } from '@/core/base/version';
import type { BroadcastInfo } from '@/core/formats/bext';
import { fileEnding, fillTemplate, withoutCollisions } from '@/core/formats/fileNames';
import type { Cover, SoundTags } from '@/core/formats/id3';
import { marksCsv, marksVtt, scriptWithTimes, type ListedMark } from '@/core/formats/markFiles';
import { predictBytes } from '@/core/formats/soundFileSize';
import { sameFormat, type FileFormat } from '@/core/specs/fileFormat';
import { lineReadings } from '@/core/timeline/scriptLines';
import { markTraits } from '@/core/timeline/markTraits';
import type { Range } from '@/core/timeline/range';
import { soundingOf } from '@/core/timeline/sounding';
import { clockOf, type Timeline } from '@/core/timeline/timeline';
import type { ExportItem } from '@/workers/exportJobs';
import { usePart } from '../sheet/part';
import { timelineOf } from '../proof/proofing';
import {
  soundingSettings,
  useProject,
  type PartRecord,
  type ProjectRecord,
  type SourceRecord,
} from '../project/openProject';

export type ExportScope = 'all' | 'part' | 'selection';
export type Destination = 'archive' | 'folder' | 'single';

/** What is chosen for the next export; what the spec says where nothing is. */
interface ExportOptions {
  scope: ExportScope;
  /** Instead of the spec's own file; its further files are left out then. */
  format: FileFormat | null;
  naming: string | null;
  destination: Destination;
  marksCsv: boolean;
  marksVtt: boolean;
  script: boolean;
  report: boolean;
  cover: { name: string; cover: Cover } | null;
}

export const useExportOptions = create<ExportOptions>(() => ({
  scope: 'all',
  format: null,
  naming: null,
  destination: 'archive',
  marksCsv: false,
  marksVtt: false,
  script: false,
  report: true,
  cover: null,
}));

export interface PlannedFile {
  fileName: string;
  seconds: number;
  bytes: number;
  format: FileFormat;
}

export interface PlannedItem extends ExportItem {
  partId: string;
  partName: string;
}

export interface ExportPlan {
  items: PlannedItem[];
  files: PlannedFile[];
  texts: { fileName: string; text: string }[];
}

const nothing: ExportPlan = { items: [], files: [], texts: [] };

/** The formats an export writes of each part. */
export function formatsOf(project: ProjectRecord, { format }: Pick<ExportOptions, 'format'>): FileFormat[] {
  if (format) return [format];
  const { file, more } = project.spec;
  return [file, ...more.filter((other) => !sameFormat(other, file))];
}

/** The files an export would write now, in order; parts with nothing recorded are left out. */
export function planExport(options: ExportOptions): ExportPlan {
  const { project, parts } = useProject.getState();
  const open = usePart.getState();
  if (!project) return nothing;
  const chosen = parts.filter((part) => options.scope === 'all' || part.id === open.id);
  const planned = chosen.flatMap((part) => planPart(part, project, parts, options));
  const names = withoutCollisions(planned.map(({ item }) => item.fileName));
  const items = planned.map(({ item }, index) => ({ ...item, fileName: names[index] }));
  const files = items.map(({ fileName, range, format, broadcast, marks, tags, cover }) => {
    const frames = range.to - range.from;
    const bytes = predictBytes({ format, rateHz: project.rateHz, frames, broadcast, marks, tags, cover });
    return { fileName, seconds: frames / project.rateHz, bytes, format };
  });
  const texts = planned.flatMap(({ texts: own }) => own);
  const textNames = withoutCollisions(texts.map(({ fileName }) => fileName));
  return { items, files, texts: texts.map((text, index) => ({ ...text, fileName: textNames[index] })) };
}

function planPart(
  part: PartRecord,
  project: ProjectRecord,
  parts: PartRecord[],
  options: ExportOptions,
): { item: PlannedItem; texts: { fileName: string; text: string }[] }[] {
  const timeline = timelineOf(part);
  const range = heardRange(timeline, options.scope === 'selection' ? usePart.getState().selection : null);
  if (range.to <= range.from) return [];
  const number = parts.indexOf(part) + 1;
  const passage = options.scope === 'selection' ? `${part.name} passage` : part.name;
  const voice = timeline.tracks.map(({ name }) => name).join(' and ');
  const date = formatDate(new Date(), 'yyyy-MM-dd');
  const marks = heardMarks(timeline, range);
  const chapters = chapterMarks(marks, passage);
  const template = options.naming ?? project.spec.naming;
  const nameFor = (rateHz: number) =>
    fillTemplate(template, {
      project: project.name,
      part: passage,
      number,
      parts: parts.length,
      voice,
      take: circledTake(timeline),
      spec: project.spec.name,
      date,
      rateHz,
    });
  const tags: SoundTags = {
    title: passage,
    album: project.name,
    artist: voice,
    track: number,
    tracks: parts.length,
    date,
    comment: '',
  };
  return formatsOf(project, options).map((format, index) => {
    const base = nameFor(format.rateHz);
    return {
      item: {
        partId: part.id,
        partName: part.name,
        fileName: `${base}.${fileEnding(format.container)}`,
        format,
        sounding: soundingOf(timeline, soundingSettings()),
        range,
        broadcast: format.broadcast ? broadcastOf(part, project, timeline, range.from, format) : undefined,
        marks: format.marks ? chapters : undefined,
        tags: format.container === 'mp3' ? tags : undefined,
        cover: format.container === 'mp3' ? options.cover?.cover : undefined,
      },
      // Texts belong to the part, not to each of its files.
      texts: index === 0 ? textsOf(base, part, timeline, range, marks, project.rateHz, options) : [],
    };
  });
}

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

function circledTake(timeline: Timeline): string {
  const { sources } = useProject.getState();
  const placed = new Set(timeline.places.map(({ source }) => source));
  return [...sources.values()].find(({ id, circled }) => circled && placed.has(id))?.name ?? '';
}

/** The earliest recording a part uses: when it was made. */
function firstTake(timeline: Timeline): SourceRecord | null {
  const { sources } = useProject.getState();
  const used = timeline.places.flatMap(({ source }) => sources.get(source) ?? []);
  return used.sort((a, b) => a.startedAt - b.startedAt)[0] ?? null;
}

/** The time in the file is its place in the part: a passage goes back to where it is from. */
function broadcastOf(
  part: PartRecord,
  project: ProjectRecord,
  timeline: Timeline,
  from: number,
  format: FileFormat,
): BroadcastInfo {
  return broadcastInfo(format, {
    description: `${project.name}, ${part.name}`,
    reference: part.id,
    recordedAt: firstTake(timeline)?.startedAt ?? project.createdAt,
    timeReference: Math.round((from / project.rateHz) * format.rateHz),
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
  part: PartRecord,
  timeline: Timeline,
  range: Range,
  marks: readonly ListedMark[],
  rateHz: number,
  options: ExportOptions,
) {
  const texts: { fileName: string; text: string }[] = [];
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
