import { format as formatDate } from 'date-fns';
import { create } from 'zustand';
import {
  deliveredSounds,
  filesOfPart,
  formatsOfSpec,
  type DeliveredSound,
  type PartFile,
  type ProjectToDeliver,
} from '@/core/delivery/partFiles';
import { withoutCollisions } from '@/core/formats/fileNames';
import type { Cover } from '@/core/formats/id3';
import { predictBytes } from '@/core/formats/soundFileSize';
import { guidesOf } from '@/core/timeline/guides';
import { bedsOf } from '@/core/timeline/mixEdits';
import type { FileFormat } from '@/core/specs/fileFormat';
import { usePart } from '../sheet/part';
import { timelineOf } from '../proof/proofing';
import { soundingSettings, useProject, type PartRecord, type ProjectRecord } from '../project/openProject';

export type ExportScope = 'all' | 'part' | 'selection';
export type Destination = 'archive' | 'folder' | 'single';

/** What is chosen for the next export; what the spec says where nothing is. */
interface ExportOptions {
  scope: ExportScope;
  what: DeliveredSound;
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
  what: 'mix',
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

export interface ExportPlan {
  items: PartFile[];
  files: PlannedFile[];
  texts: { fileName: string; text: string }[];
}

const nothing: ExportPlan = { items: [], files: [], texts: [] };

/** The formats an export writes of each part. */
export const formatsOf = (
  { spec }: Pick<ProjectRecord, 'spec'>,
  { format }: Pick<ExportOptions, 'format'>,
) => (format ? [format] : formatsOfSpec(spec));

/** What could be written: apart, where a part has several voices or a bed; with a guide, where one has it. */
export function offeredSounds(parts: readonly PartRecord[]): DeliveredSound[] {
  const timelines = parts.map(timelineOf);
  const several = timelines.some((timeline) => timeline.tracks.length + bedsOf(timeline).length > 1);
  const guided = timelines.some((timeline) => guidesOf(timeline).length > 0);
  return deliveredSounds.filter((sound) =>
    sound === 'beside' || sound === 'guided' ? guided : sound === 'mix' || several,
  );
}

/** The files an export would write now, in order; parts with nothing recorded are left out. */
export function planExport(options: ExportOptions): ExportPlan {
  const { project, parts } = useProject.getState();
  const open = usePart.getState();
  if (!project) return nothing;
  const chosen = parts.filter((part) => options.scope === 'all' || part.id === open.id);
  const planned = chosen.flatMap((part) => {
    const timeline = timelineOf(part);
    const selection = options.scope === 'selection' ? usePart.getState().selection : null;
    const { id, name, script } = part;
    const own = { id, name, script, number: parts.indexOf(part) + 1, of: parts.length };
    return filesOfPart({ ...own, timeline, selection }, projectToDeliver(project), options);
  });
  const names = withoutCollisions(planned.map(({ file }) => file.fileName));
  const items = planned.map(({ file }, index) => ({ ...file, fileName: names[index] }));
  const files = items.map(({ fileName, range, format, broadcast, marks, tags, cover }) => {
    const frames = range.to - range.from;
    const bytes = predictBytes({ format, rateHz: project.rateHz, frames, broadcast, marks, tags, cover });
    return { fileName, seconds: frames / project.rateHz, bytes, format };
  });
  const texts = planned.flatMap(({ texts: own }) => own);
  const textNames = withoutCollisions(texts.map(({ fileName }) => fileName));
  return { items, files, texts: texts.map((text, index) => ({ ...text, fileName: textNames[index] })) };
}

/** What the files of a project say of it. */
function projectToDeliver(project: ProjectRecord): ProjectToDeliver {
  const { name, spec, createdAt } = project;
  const { sources } = useProject.getState();
  const date = formatDate(new Date(), 'yyyy-MM-dd');
  return { name, spec, createdAt, date, sources: [...sources.values()], settings: soundingSettings() };
}
