import { partFileName, safeName } from '@/core/formats/fileNames';
import { predictBytes } from '@/core/formats/soundFile';
import { plainFormat, type FileFormat } from '@/core/specs/fileFormat';
import { storeSounding } from '@/core/timeline/sounding';
import { loadTimeline, type Timeline } from '@/core/timeline/timeline';
import type { ExportItem } from '@/workers/exportJobs';
import { exportClient, handOver, runShown } from './jobs';
import { notify } from './notices';
import { usePart } from './part';
import { saved } from './saving';
import { sourceList, useSession } from './session';
import { joinLengths } from './transport';

export type ExportScope = 'all' | 'part' | 'selection';

export interface PlannedFile {
  fileName: string;
  seconds: number;
  bytes: number;
}

/** The files an export would write now, in order; parts with nothing recorded are left out. */
export function planExport(
  scope: ExportScope,
  format: FileFormat,
): { items: ExportItem[]; files: PlannedFile[] } {
  const { project, parts } = useSession.getState();
  const open = usePart.getState();
  if (!project) return { items: [], files: [] };
  const chosen = parts.filter((part) => scope === 'all' || part.id === open.id);
  const items = chosen.flatMap((part) => {
    const timeline = part.id === open.id ? open.timeline : loadTimeline(part.timeline);
    const range = heardRange(timeline, scope === 'selection' ? open.selection : null);
    if (range.to <= range.from) return [];
    const name = {
      project: project.name,
      number: parts.indexOf(part) + 1,
      parts: parts.length,
      part: part.name,
    };
    const suffix = scope === 'selection' ? { ...name, part: `${part.name} passage` } : name;
    const item: ExportItem = {
      fileName: partFileName(suffix, format.container),
      sounding: storeSounding(timeline),
      range,
    };
    return [item];
  });
  const files = items.map(({ fileName, range }) => {
    const frames = range.to - range.from;
    return {
      fileName,
      seconds: frames / project.rateHz,
      bytes: predictBytes({ format, rateHz: project.rateHz, frames }),
    };
  });
  return { items, files };
}

function heardRange({ tracks }: Timeline, selection: { from: number; to: number } | null) {
  const { table } = tracks[0];
  if (!selection) return { from: 0, to: table.heardFrames };
  return { from: table.sheetToHeard(selection.from), to: table.sheetToHeard(selection.to) };
}

/** Writes the files in the worker and hands over the result: one file as it is, several as one archive. */
export async function exportNow(scope: ExportScope, format: FileFormat): Promise<void> {
  const { project } = useSession.getState();
  const { items } = planExport(scope, format);
  if (!project || items.length === 0) {
    return notify(
      'info',
      'There is nothing to export here yet: record something first, or select a passage that is not struck.',
    );
  }
  await writeItems(items, format, `${safeName(project.name)}.zip`);
}

/** Writes the selection as it is heard to a file of its own: 32-bit float at the project's rate, nothing lost. */
export async function saveSelection(): Promise<void> {
  const { project } = useSession.getState();
  if (!project) return;
  const format: FileFormat = {
    ...plainFormat,
    encoding: 'float32',
    rateHz: project.rateHz as FileFormat['rateHz'],
  };
  await exportNow('selection', format);
}

/** Writes files in the worker and hands over the result: one file as it is, several as one archive. */
export async function writeItems(
  items: ExportItem[],
  format: FileFormat,
  archiveName: string,
): Promise<void> {
  const { project } = useSession.getState();
  if (!project) return;
  const written = await runShown(
    items.length === 1 ? `Writing ${items[0].fileName}` : `Writing ${items.length} files`,
    (options) =>
      exportClient.run(
        'export',
        {
          items,
          sources: sourceList().map(({ id, frames }) => ({ id, frames })),
          rateHz: project.rateHz,
          joins: joinLengths(),
          format,
          archiveName,
        },
        options,
      ),
  );
  if (!written) return;
  await handOver(written);
  notify('success', `${written.fileName} is written.`);
}

/** Writes the whole project to one open file. */
export async function saveProjectFile(projectId: string, name: string): Promise<void> {
  await saved();
  const fileName = `${safeName(name)}.parola`;
  const written = await runShown(`Writing ${fileName}`, (options) =>
    exportClient.run('saveProject', { projectId, fileName }, options),
  );
  if (!written) return;
  await handOver(written);
  notify('success', `${written.fileName} is written. It holds the whole project: keep it as your backup.`);
}

/** Opens a project file as a project of its own and returns its id; null when that failed, which has been told. */
export async function openProjectFile(file: File): Promise<string | null> {
  const opened = await runShown(`Opening ${file.name}`, (options) =>
    exportClient.run('openProject', { file }, options),
  );
  return opened?.projectId ?? null;
}
