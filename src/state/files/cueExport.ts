import { say } from '@/texts/say';
import { format as formatDate } from 'date-fns';
import { cueFiles, type CueDelivery, type CueTake } from '@/core/delivery/cueFiles';
import { filmSounding } from '@/core/delivery/filmSound';
import type { PartFile } from '@/core/delivery/partFiles';
import { cuePage } from '@/core/cues/cuePage';
import { proveCues, type CueFault, type ProvedCue } from '@/core/cues/cueProof';
import { takesCsv } from '@/core/cues/takesCsv';
import { safeName, withoutCollisions } from '@/core/formats/fileNames';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import { cueStates } from '@/core/timeline/cueState';
import { heardOfCue } from '@/core/timeline/cueTakes';
import type { Cue } from '@/core/timeline/cues';
import { recordedFrames } from '@/core/timeline/overlay';
import { clockOf } from '@/core/timeline/timeline';
import type { PartFilm } from '../hearing/film';
import { exportClient, handOver, handOverText, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import {
  rateOfProject,
  soundingSettings,
  sourceLengths,
  useProject,
  type SourceRecord,
} from '../project/openProject';
import { chosenTake, takeAsPlaced } from '../recording/cueTakes';
import { figuresKey, measureTakes, useCueFigures } from '../recording/cueFigures';
import { takesOfCue } from '../recording/cuePlan';
import { openPartRecord, usePart } from '../sheet/part';
import { writeItems } from './exporting';

const takesNow = (cue: Cue): SourceRecord[] =>
  takesOfCue(cue, useProject.getState().sources.values()).filter(({ cue: own }) => own === cue.id);

const cuesNow = () => cueSheetOf(usePart.getState().timeline).cues;

function takeToDeliver(cue: Cue, take: SourceRecord): CueTake {
  const { placement, recorded } = takeAsPlaced(cue, take);
  const { id, circled = false, startedAt } = take;
  return { id, cue: cue.id, take: take.take, circled, startedAt, from: placement.from, recorded };
}

/** The files that an export of the cues of the open part would write now. */
export function planCueFiles(delivery: CueDelivery): PartFile[] {
  const { project, parts, sources } = useProject.getState();
  const part = openPartRecord();
  if (!project || !part) return [];
  const { timeline } = usePart.getState();
  const { name, spec, createdAt } = project;
  const date = formatDate(new Date(), 'yyyy-MM-dd');
  const files = cueFiles(
    { ...part, number: parts.indexOf(part) + 1, of: parts.length, timeline, selection: null },
    { name, spec, createdAt, date, sources: [...sources.values()], settings: soundingSettings() },
    cuesNow().flatMap((cue) => takesNow(cue).map((take) => takeToDeliver(cue, take))),
    delivery,
  );
  const names = withoutCollisions(files.map(({ fileName }) => fileName));
  return files.map((file, index) => ({ ...file, fileName: names[index] }));
}

/** Writes the files of the cues and hands them over. */
export async function exportCues(delivery: CueDelivery): Promise<void> {
  const items = planCueFiles(delivery);
  if (items.length === 0)
    return notify('info', say`There is nothing to write yet: record a cue first, or circle a take.`);
  await writeItems(items, `${safeName(openPartRecord()?.name ?? 'part')}_cues.zip`);
}

/** Writes the picture of the open part with the new lines in it, and hands it over. */
export async function exportFilm(film: PartFilm, underLineDb: number): Promise<void> {
  const { project } = useProject.getState();
  const part = openPartRecord();
  if (!project || !part) return;
  const { timeline } = usePart.getState();
  const settings = { ...soundingSettings(), dry: project.spec.unprocessed };
  const clock = clockOf(timeline);
  const from = clock.sheetToHeard(Math.max(0, film.origin));
  const length = Math.round(film.film.seconds * project.rateHz);
  const item = {
    sounding: filmSounding(timeline, film.guide, underLineDb, settings),
    range: { from, to: Math.min(clock.heardFrames, from + length) },
    fileName: `${safeName(project.name)}_${safeName(part.name)}_lines`,
  };
  const written = await runShown(say`Writing ${item.fileName}`, (options) =>
    exportClient.run('film', { sourceId: film.source, item, sources: sourceLengths() }, options),
  );
  if (!written) return;
  await handOver(written);
  notify('success', say`${written.fileName} is written: its pictures as they were, with the new lines.`);
}

/** How all takes of the open part lie, found out as far as it is not known. */
async function measureAll(): Promise<void> {
  for (const cue of cuesNow()) await measureTakes(cue, takesNow(cue));
}

/** Hands over the takes of all cues as CSV. */
export async function saveTakes(): Promise<void> {
  await measureAll();
  const { figures } = useCueFigures.getState();
  const takes = cuesNow().flatMap((cue) =>
    takesNow(cue).map((take) => {
      const { placement, recorded } = takeAsPlaced(cue, take);
      const found = figures.get(figuresKey(cue, take));
      return {
        ...{ cue: cue.id, take: take.take, from: placement.from },
        to: placement.from + recordedFrames(recorded),
        loudnessLufs: take.summary?.loudnessLufs ?? null,
        peakDbfs: take.summary?.peakDbfs ?? null,
        ...{ late: found?.late ?? null, long: found?.long ?? null },
        ...{ circled: take.circled ?? false, heard: chosenTake(cue) === take.id, note: take.note ?? '' },
      };
    }),
  );
  if (takes.length === 0) return notify('info', say`No cue has a take yet.`);
  const text = takesCsv(cueSheetOf(usePart.getState().timeline), rateOfProject(), takes);
  handOverText(`${safeName(openPartRecord()?.name ?? 'part')} takes.csv`, text);
}

/** Hands over the cue sheet as a page to print. */
export function saveCuePage(): void {
  const { timeline } = usePart.getState();
  const name = openPartRecord()?.name ?? 'part';
  const title = `${useProject.getState().project?.name ?? ''}: ${name}`;
  const page = cuePage(title, cueSheetOf(timeline), cueStates(timeline), rateOfProject());
  handOverText(`${safeName(name)} cues.html`, page);
}

/** What of the cues of the open part a client would send back, once everything is measured. */
export async function proveOpenCues(): Promise<CueFault[]> {
  await measureAll();
  const { timeline } = usePart.getState();
  const { figures } = useCueFigures.getState();
  const { sources } = useProject.getState();
  const known = cuesNow().flatMap((cue): [string, ProvedCue][] => {
    if (!heardOfCue(timeline, cue)) return [];
    const take = sources.get(chosenTake(cue) ?? '');
    const found = take && figures.get(figuresKey(cue, take));
    return [
      [
        cue.id,
        {
          loudnessLufs: take?.summary?.loudnessLufs ?? null,
          clippedSamples: take?.summary?.clippedSamples ?? 0,
          // Against a guide: what it is late, and too long, is what it goes on longer than the guide does.
          overSeconds: found ? found.late + found.long : null,
        },
      ],
    ];
  });
  return proveCues(cueSheetOf(timeline), new Map(known));
}
