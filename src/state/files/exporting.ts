import { say } from '@/texts/say';
import { create } from 'zustand';
import { cancelled } from '@/core/base/errors';
import type { PartFile } from '@/core/delivery/partFiles';
import { safeName } from '@/core/formats/fileNames';
import { plainFormat, sameFormat, type FileFormat } from '@/core/specs/fileFormat';
import { judgeAmong } from '@/core/specs/judgeAmong';
import {
  filePasses,
  reportCsv,
  reportHtml,
  reportJson,
  type Report,
  type SessionNote,
} from '@/core/specs/report';
import type { CheckedFile, ExportItem } from '@/workers/exportJobs';
import type { ReportProgress } from '@/workers/protocol';
import { readSession } from '../far/log';
import { planExport, useExportOptions, type Destination, type ExportPlan } from './exportPlan';
import { chooseFolder, namesIn, saveToFolder } from './folders';
import { exportClient, exportClients, handOver, handOverText, runShown } from '../page/jobs';
import { dismissAll, notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { sourceLengths, useProject } from '../project/openProject';

/** The last export: what was written, read back and judged. */
export const useExported = create<{ report: Report | null; shown: boolean }>(() => ({
  report: null,
  shown: false,
}));

whenProjectCloses(() => useExported.setState({ report: null, shown: false }));

export function showExported(shown: boolean): void {
  // Messages would lie over it, and it says more than they do.
  if (shown) dismissAll();
  useExported.setState({ shown });
}

/** Writes the files that are planned, reads each back, and hands them over with a report of what was read. */
export async function exportNow(): Promise<void> {
  const { project } = useProject.getState();
  const options = useExportOptions.getState();
  const plan = planExport(options);
  if (!project || plan.items.length === 0) {
    return notify(
      'info',
      say`There is nothing to export here yet: record something first, or select a passage that is not struck.`,
    );
  }
  const folder = options.destination === 'folder' ? await chooseFolder() : null;
  if (options.destination === 'folder' && !folder) return;
  const withReport = options.report && plan.items.length > 1;
  const named = folder
    ? await nameForFolder(folder, plan, withReport ? reportNames(project.name) : [])
    : { ...plan, reportNames: undefined };
  if (!named) return;
  const apart = folder && !(await hasRoom(named.items)) ? folder : null;
  const checked = await writeAll(named.items, apart);
  if (!checked) return;
  const report = { ...reportOf(project.name, named.items, checked), sessions: await sessionNotes() };
  const texts = [...named.texts, ...(withReport ? reportTexts(report, named.reportNames) : [])];
  const where = await handOut(checked, texts, project.name, folder, options.destination, apart);
  // What was not handed over is not kept, and what was written in the folder has been copied.
  if (!where || apart)
    await exportClient.run('discard', { paths: checked.map(({ path }) => path), folder: apart });
  if (!where) return;
  useExported.setState({ report });
  tellResult(where, report);
}

/** The plan under names that may be written in a folder; null when the user calls it off. */
async function nameForFolder(
  folder: FileSystemDirectoryHandle,
  { items, texts }: ExportPlan,
  reports: readonly string[],
) {
  const wanted = [
    ...items.map(({ fileName }) => fileName),
    ...texts.map(({ fileName }) => fileName),
    ...reports,
  ];
  const names = await namesIn(folder, wanted);
  if (!names) return null;
  const rest = names.slice(items.length);
  return {
    items: items.map((item, index) => ({ ...item, fileName: names[index] })),
    texts: texts.map((text, index) => ({ ...text, fileName: rest[index] })),
    reportNames: rest.slice(texts.length),
  };
}

/**
 * Gives the files to the user as wanted; returns where they are, or null when that was cancelled or failed.
 */
async function handOut(
  checked: readonly CheckedFile[],
  texts: readonly { fileName: string; text: string }[],
  projectName: string,
  folder: FileSystemDirectoryHandle | null,
  destination: Destination,
  apart: FileSystemDirectoryHandle | null,
): Promise<string | null> {
  const files = checked.map(({ path, fileName }) => ({ path, fileName }));
  if (folder)
    return runShown(say`Copying into the folder`, (job) => saveToFolder(folder, files, texts, job, apart));
  if (destination === 'single' || (files.length === 1 && texts.length === 0)) {
    for (const file of checked) await handOver(file);
    for (const { fileName, text } of texts) handOverText(fileName, text);
    return files.length === 1 ? files[0].fileName : say`${files.length} files`;
  }
  const archiveName = `${safeName(projectName)}.zip`;
  const archive = await runShown(say`Packing ${archiveName}`, (job) =>
    exportClient.run('archive', { files, texts: [...texts], archiveName }, job),
  );
  if (archive) await handOver(archive);
  return archive?.fileName ?? null;
}

function tellResult(where: string, { files }: Report) {
  const faulty = files.filter((file) => !filePasses(file)).length;
  if (faulty === 0) return notify('success', say`${where}: written, read back, and all of it passes.`);
  notify(
    'warning',
    say`${where}: written. Read back, ${faulty === 1 ? say`1 file does` : say`${faulty} files do`} not pass: “Last export” says why.`,
    'proof',
  );
}

/** A file is never larger than its samples in 32 bits, and the browser wants some room for itself. */
const mostSampleBytes = 4;
const spareBytes = 50e6;

/** Whether the private file system has room for the files, as far as the browser says. */
async function hasRoom(items: readonly ExportItem[]): Promise<boolean> {
  const { quota = Infinity, usage = 0 } = await navigator.storage.estimate();
  const needed = items.reduce(
    (sum, { range, format, sounding }) =>
      sum + ((range.to - range.from) / sounding.rateHz) * format.rateHz * format.channels * mostSampleBytes,
    spareBytes,
  );
  return needed <= quota - usage;
}

/**
 * All items at once on as many workers as there are; null when it was cancelled or failed, and then nothing
 * is left behind.
 */
async function writeAll(
  items: readonly ExportItem[],
  folder: FileSystemDirectoryHandle | null = null,
): Promise<CheckedFile[] | null> {
  const title = items.length === 1 ? say`Writing ${items[0].fileName}` : say`Writing ${items.length} files`;
  return runShown(title, async ({ signal, progress }) => {
    const results: CheckedFile[] = [];
    try {
      await writeInParallel(items, folder, results, signal, progress);
    } catch (error) {
      await exportClient.run('discard', { paths: results.flatMap((result) => result?.path ?? []), folder });
      throw error;
    }
    return results;
  });
}

async function writeInParallel(
  items: readonly ExportItem[],
  folder: FileSystemDirectoryHandle | null,
  results: CheckedFile[],
  signal: AbortSignal,
  progress: ReportProgress,
) {
  const stop = new AbortController();
  signal.addEventListener('abort', () => stop.abort(), { once: true });
  const lengths = items.map(({ range }) => range.to - range.from);
  const total = lengths.reduce((sum, length) => sum + length, 0);
  const done = items.map(() => 0);
  let next = 0;
  const workOff = async (client: (typeof exportClients)[number]) => {
    while (next < items.length) {
      if (stop.signal.aborted) throw cancelled();
      const index = next++;
      const item = items[index];
      results[index] = await client.run(
        'write',
        { item, sources: sourceLengths(), folder },
        {
          signal: stop.signal,
          progress: (share) => {
            done[index] = share * lengths[index];
            progress(done.reduce((sum, part) => sum + part, 0) / Math.max(1, total), item.fileName);
          },
        },
      );
    }
  };
  const outcomes = await Promise.allSettled(
    exportClients.slice(0, items.length).map((client) =>
      workOff(client).catch((error: unknown) => {
        stop.abort();
        throw error;
      }),
    ),
  );
  const failed = outcomes.find((outcome) => outcome.status === 'rejected');
  if (failed) throw failed.reason;
}

/** The written files against the spec, measured from what was read back. */
function reportOf(
  project: string,
  items: readonly (ExportItem & Partial<PartFile>)[],
  checked: readonly CheckedFile[],
): Report {
  const spec = useProject.getState().project?.spec;
  if (!spec) throw new Error('No project is open');
  const files = items.map((item, index) => {
    const { measurement, fileName, bytes, sha256, mistake } = checked[index];
    // Parts are compared with parts: in stereo they measure louder than in mono.
    const alike = checked.filter((_, other) => sameFormat(items[other].format, item.format));
    return {
      fileName,
      part: item.partName ?? '',
      format: item.format,
      bytes,
      sha256,
      chains: item.chains ?? [],
      ...judgeAmong(spec, measurement, { bytes, all: alike.map((file) => file.measurement) }),
      mistake,
    };
  });
  return { project, spec, madeAt: new Date().toISOString(), files };
}

/** What was noted of the project's sessions with talents far away. */
const sessionNotes = async (): Promise<SessionNote[]> =>
  ((await readSession().catch(() => null))?.log ?? []).map(({ at, ...note }) => ({
    at: new Date(at).toISOString(),
    ...note,
  }));

const reportEndings = ['html', 'csv', 'json'] as const;

const reportNames = (project: string) =>
  reportEndings.map((ending) => `${safeName(project)}_report.${ending}`);

const reportTexts = (report: Report, names: readonly string[] = reportNames(report.project)) =>
  [reportHtml(report), reportCsv(report), reportJson(report)].map((text, index) => ({
    fileName: names[index] ?? reportNames(report.project)[index],
    text,
  }));

/** Hands over one form of the last export's report. */
export function saveReport(ending: (typeof reportEndings)[number]): void {
  const { report } = useExported.getState();
  const text = report && reportTexts(report).find(({ fileName }) => fileName.endsWith(`.${ending}`));
  if (text) handOverText(text.fileName, text.text);
}

/**
 * Writes the selection as it is heard to a file of its own: 32-bit float at the project's rate, nothing lost.
 */
export async function saveSelection(): Promise<void> {
  const { project } = useProject.getState();
  if (!project) return;
  const format: FileFormat = {
    ...plainFormat,
    encoding: 'float32',
    rateHz: project.rateHz as FileFormat['rateHz'],
  };
  const { items } = planExport({ ...useExportOptions.getState(), scope: 'selection', format });
  if (items.length === 0) return notify('info', say`Select a passage that is not struck first.`);
  await writeItems(items, `${safeName(project.name)}.zip`);
}

/** Writes files and hands them over: one file as it is, several as one archive. */
export async function writeItems(items: ExportItem[], archiveName: string): Promise<void> {
  const checked = await writeAll(items);
  if (!checked) return;
  const mistake = checked.find((file) => file.mistake !== null)?.mistake;
  if (mistake)
    notify('error', say`${mistake} Export it again; if it stays so, the disk may be failing.`, 'proof');
  if (checked.length === 1) {
    await handOver(checked[0]);
    return notify('success', say`${checked[0].fileName} is written.`);
  }
  const files = checked.map(({ path, fileName }) => ({ path, fileName }));
  const archive = await runShown(say`Packing ${archiveName}`, (job) =>
    exportClient.run('archive', { files, texts: [], archiveName }, job),
  );
  if (!archive) return;
  await handOver(archive);
  notify('success', say`${archive.fileName} is written.`);
}
