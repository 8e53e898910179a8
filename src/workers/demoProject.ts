import { decodeMp3 } from '@/core/formats/mp3Decoder';
import { splitIntoLines } from '@/core/base/text';
import { tradeRate, type Film } from '@/core/cues/film';
import { audioFrameOf } from '@/core/cues/timecode';
import { findSpec } from '@/core/specs/builtIn';
import { addCharacters, addCues, changeCharacter, cueSheetOf, setCueTime } from '@/core/timeline/cueEdits';
import { addMark, strike } from '@/core/timeline/edits';
import { addGuide, writtenFramesOf } from '@/core/timeline/guides';
import { addBed } from '@/core/timeline/mixEdits';
import { appendRecording } from '@/core/timeline/takes';
import type { Piece } from '@/core/timeline/pieces';
import { emptyTimeline, type Timeline } from '@/core/timeline/timeline';
import { loadTimeline, storeTimeline } from '@/core/timeline/stored';
import { whileOpening } from '@/storage/lock';
import { createProject, newId, newPart, newProject } from '@/storage/projects';
import type { PartRecord, ProjectRecord, SourceRecord, TakeSummary } from '@/storage/schema';
import { BlockWriter } from '@/storage/blocks';
import { writeFilm } from '@/storage/films';
import { createSource, finishSource } from '@/storage/sources';
import { assert } from '@/core/base/errors';
import type { JobContext } from './protocol';

interface DemoPart {
  name: string;
  script: string[];
  files: string[];
  /** Music or atmosphere under sheet seconds [from, to). */
  bed?: { file: string; from: number; to: number };
  guide?: { file: string; name: string };
  /** The picture that belongs to the guide. */
  film?: { file: string } & Omit<Film, 'fileName' | 'bytes'>;
  /** Who speaks, each on a stave of their own, and the lines, from and to which picture of the film. */
  characters?: string[];
  cues?: { number: string; from: number; to: number; character: string; text: string }[];
  /** Sheet frames [from, to). */
  struck: [number, number][];
  flubs: [number, number][];
}

interface Demo {
  project: string;
  spec: string;
  rateHz: number;
  /** By file. */
  summaries: Record<string, TakeSummary>;
  parts: DemoPart[];
}

const folder = '/demo';
const trackNames = (files: number, characters?: readonly string[]) =>
  characters ?? (files === 2 ? ['Ines', 'Boat builder'] : ['Voice']);

/** Reads the shipped demo into a project of its own. */
export const openDemoProject = (_input: null, context: JobContext) => whileOpening(() => readDemo(context));

async function readDemo({ progress }: JobContext): Promise<{ projectId: string; name: string }> {
  const demo = (await (await fetch(`${folder}/demo.json`)).json()) as Demo;
  const spec = findSpec(demo.spec);
  assert(spec, 'the demo names a built-in spec');
  const project = newProject(demo.project, spec, demo.rateHz);
  let done = 0;
  // All at once: while one is being stored another one is decoded.
  const read = await Promise.all(
    demo.parts.map(async (part) => {
      const made = await readPart(part, project, demo.summaries);
      progress(++done / demo.parts.length, part.name);
      return made;
    }),
  );
  const parts = read.map(({ record }) => record);
  const sources = read.flatMap((part) => part.sources);
  const open = parts.find((part) => loadTimeline(part.timeline).marks.length > 1) ?? parts[0];
  await createProject({ ...project, openPartId: open.id }, parts);
  await Promise.all(sources.map((source) => finishSource(source.id, { state: 'kept' })));
  return { projectId: project.id, name: project.name };
}

async function readPart(
  part: DemoPart,
  { id, rateHz }: Pick<ProjectRecord, 'id' | 'rateHz'>,
  summaries: Demo['summaries'],
): Promise<{ record: PartRecord; sources: SourceRecord[] }> {
  const lines = part.script.flatMap((text) => splitIntoLines(text));
  const empty = newPart(
    id,
    part.name,
    lines.map((text) => ({ id: newId(), text })),
  );
  const read = (file: string, track: number, own: Partial<SourceRecord> = {}) =>
    readSource(file, { track, projectId: id, partId: empty.id, rateHz, summary: summaries[file] }, own);
  const sources = await Promise.all(part.files.map((file, track) => read(file, track)));
  const guideId = newId();
  const bed = part.bed && (await read(part.bed.file, 0, bedOf(part.bed.file)));
  const guide =
    part.guide &&
    (await read(part.guide.file, 0, {
      id: guideId,
      role: 'guide',
      take: 0,
      name: part.guide.name,
      input: `File “${part.guide.file}”`,
      ...(part.film && { film: await readFilm(part.film, guideId) }),
    }));
  const voices = timelineOf(part, sources);
  const bedded = part.bed && bed ? withBed(voices, bed, part.bed, rateHz) : voices;
  const guided = guide ? withGuide(bedded, guide) : bedded;
  const timeline = withCues(guided, part, rateHz);
  const record = {
    ...empty,
    timeline: storeTimeline(timeline),
    heardFrames: writtenFramesOf(timeline),
    currentLine: part.files.length > 0 ? part.script.length - 1 : 0,
  };
  return { record, sources: [...sources, bed, guide].filter((source) => source !== undefined) };
}

const withGuide = (timeline: Timeline, { id, name, frames }: SourceRecord): Timeline =>
  addGuide(timeline, {
    id: `guide-${newId().slice(0, 8)}`,
    name,
    pieces: [{ kind: 'audio', source: id, channel: 0, from: 0, length: frames, gainDb: 0 }],
  });

/** Copies the film beside its sound. */
async function readFilm({ file, ...film }: NonNullable<DemoPart['film']>, id: string): Promise<Film> {
  const response = await fetch(`${folder}/${file}`);
  const bytes = await response.blob();
  await writeFilm(id, bytes.stream(), { signal: new AbortController().signal });
  return { ...film, fileName: file, bytes: bytes.size };
}

/** The lines of a film, each with who speaks it on which stave. */
function withCues(timeline: Timeline, { film, characters, cues }: DemoPart, rateHz: number): Timeline {
  const rate = film?.rate && tradeRate(film.rate.num / film.rate.den);
  if (!rate || !characters || !cues) return timeline;
  const named = addCharacters(setCueTime(timeline, { rate: rate.name, start: 0 }), characters, newId);
  const placed = cueSheetOf(named).characters.reduce(
    (result, { id }, index) => changeCharacter(result, id, { track: timeline.tracks[index].id }),
    named,
  );
  const known = new Map(cueSheetOf(placed).characters.map(({ id, name }) => [name, id]));
  return addCues(
    placed,
    cues.map(({ character, from, to, ...cue }) => ({
      ...{ ...cue, id: newId(), note: '', character: known.get(character) },
      from: audioFrameOf(from, rate, rateHz),
      to: audioFrameOf(to, rate, rateHz),
    })),
  );
}

const bedOf = (file: string): Partial<SourceRecord> => ({
  role: 'bed',
  name: 'Shore',
  input: `File “${file}”`,
});

/** So far under the voices a bed lies that does not go down under them; *common practice*. */
const bedUnderLu = 15;
const bedFadeSeconds = { in: 1.5, out: 3 };

/** A bed under a passage. */
function withBed(
  timeline: Timeline,
  { id, name, frames, summary }: SourceRecord,
  { from, to }: { from: number; to: number },
  rateHz: number,
): Timeline {
  const levelDb = Math.round(demoVoiceLufs - bedUnderLu - (summary?.loudnessLufs ?? demoVoiceLufs));
  return addBed(timeline, {
    id: newId(),
    name,
    clips: [
      {
        id: newId(),
        source: id,
        channels: 1,
        from: 0,
        length: frames,
        levelDb,
        begin: { moment: { kind: 'place', at: from * rateHz }, after: 0 },
        end: { moment: { kind: 'place', at: to * rateHz }, after: 0 },
        fadeIn: bedFadeSeconds.in * rateHz,
        fadeOut: bedFadeSeconds.out * rateHz,
        loop: null,
      },
    ],
  });
}

/** The loudness the readings of the demo were made with. */
const demoVoiceLufs = -20;

interface Reading {
  track: number;
  projectId: string;
  partId: string;
  rateHz: number;
  summary: TakeSummary;
}

async function readSource(
  file: string,
  { track, projectId, partId, rateHz, summary }: Reading,
  own: Partial<SourceRecord>,
): Promise<SourceRecord> {
  const record: SourceRecord = {
    id: newId(),
    projectIds: [projectId],
    partId,
    trackId: `track-${track + 1}`,
    take: track + 1,
    name: `Take ${track + 1}`,
    rateHz,
    channels: 1,
    state: 'importing',
    frames: 0,
    handleFrames: 0,
    startedAt: Date.now(),
    overrunFrames: 0,
    input: 'Demo reading',
    ...own,
  };
  await createSource(record);
  const { body } = await fetch(`${folder}/${file}`);
  assert(body, 'the demo is shipped with its audio');
  const writer = new BlockWriter(record.id, 1);
  for await (const audio of decodeMp3(bytesOf(body), () => ({ truncated: false, damaged: false })))
    await writer.write(audio);
  const frames = await writer.close();
  await finishSource(record.id, { frames, summary });
  return { ...record, frames, summary };
}

async function* bytesOf(body: ReadableStream<Uint8Array>) {
  const reader = body.getReader();
  for (let next = await reader.read(); !next.done; next = await reader.read()) yield next.value;
}

function timelineOf(part: DemoPart, sources: SourceRecord[]): Timeline {
  const length = Math.min(...sources.map((source) => source.frames));
  const recorded = new Map(
    sources.map((source): [string, Piece[]] => [
      source.trackId,
      [{ kind: 'audio', source: source.id, channel: 0, from: 0, length, gainDb: 0 }],
    ]),
  );
  let timeline = appendRecording(emptyTimeline(trackNames(sources.length, part.characters)), recorded);
  part.flubs.forEach(([from, to], index) => {
    const mark = {
      id: newId(),
      kind: 'flub' as const,
      at: from,
      length: to - from,
      name: `Flub ${index + 1}`,
    };
    timeline = addMark(timeline, mark);
  });
  for (const [from, to] of part.struck) timeline = strike(timeline, { from, to });
  return timeline;
}
