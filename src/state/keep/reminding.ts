import { create } from 'zustand';
import { hoursOf, newSince, reminderHours, usualReminderHours } from '@/core/keep/backups';
import { backupOf } from '@/storage/backups';
import { readSetting, writeSetting } from '@/storage/settings';
import { saveProjectFile } from '../files/projectFiles';
import { whenProjectCloses } from '../page/resets';
import { useProject } from '../project/openProject';
import { useCopying } from './copying';

interface Reminding {
  /** When the last project file was saved; null where none was. */
  at: number | null;
  /** Recorded since then, in hours. */
  hours: number;
  /** There is a file that what is new could be added to. */
  hasFile: boolean;
  /** After how many hours somebody wants to be reminded; null for never. */
  after: number | null;
  dismissed: boolean;
}

const none = { at: null, hours: 0, hasFile: false, dismissed: false };
export const useReminding = create<Reminding>(() => ({ ...none, after: usualReminderHours }));

const key = 'reminder-hours';
/** What `sources` was looked at last, so that it is done once for each change. */
let looked: unknown = null;

export async function lookAtBackup(): Promise<void> {
  const { project, sources } = useProject.getState();
  if (!project) return;
  const [backup, after] = await Promise.all([backupOf(project.id), readSetting<number | null>(key)]);
  const held = new Set((backup?.files ?? []).flatMap((file) => file.sources));
  const hours = hoursOf(newSince([...sources.values()], held));
  useReminding.setState({
    at: backup?.at ?? null,
    hours,
    hasFile: backup !== undefined,
    ...(after !== undefined && { after }),
  });
}

/** Follows what is recorded while a project is open. */
export function followBackups(): () => void {
  void lookAtBackup().catch(() => undefined);
  return useProject.subscribe(({ sources, status }) => {
    if (status !== 'open' || sources === looked) return;
    looked = sources;
    void lookAtBackup().catch(() => undefined);
  });
}

/** A project file is due: there is no copy in a folder, and enough was recorded since the last one. */
export const isDue = (
  { hours, after, dismissed }: Reminding,
  copying: ReturnType<typeof useCopying.getState>,
) => !dismissed && after !== null && hours >= after && (copying.status === 'off' || copying.at === null);

export async function remindAfter(hours: (typeof reminderHours)[number] | null): Promise<void> {
  useReminding.setState({ after: hours });
  await writeSetting(key, hours);
}

/** Not again before the project is opened anew. */
export const dismissReminder = () => useReminding.setState({ dismissed: true });

/** Saves the open project as a file: all of it, or what is new since the last one. */
export async function saveBackup(onlyNew: boolean): Promise<void> {
  const { project } = useProject.getState();
  if (project && (await saveProjectFile(project.id, project.name, onlyNew))) await lookAtBackup();
}

whenProjectCloses(() => {
  looked = null;
  useReminding.setState(none);
});
