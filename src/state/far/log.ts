import { readSetting, writeSetting } from '@/storage/settings';
import { notifyError } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { useProject } from '../project/openProject';
import { useFar, type LogEntry } from './far';

/** Whom the studio has let in, so that they need not knock twice. */
export interface KnownPerson {
  readonly key: string;
  readonly name: string;
  readonly seat: number;
}

/** What is kept of a project's sessions: the same link leads here until a new one is made. */
export interface StoredSession {
  readonly secret: string;
  /** What shows the server that this is the studio of the room. */
  readonly owner: string;
  readonly people: readonly KnownPerson[];
  readonly cleaned?: boolean;
  readonly log: readonly LogEntry[];
}

const keyOf = (projectId: string) => `far/${projectId}`;
const mostEntries = 2000;

/** The open session as it is to be stored; whatever changes it starts from here. */
let current: StoredSession | null = null;
let writing: Promise<void> = Promise.resolve();
whenProjectCloses(() => (current = null));

export const sessionNow = (): StoredSession | null => current;

/** What is stored of the open project's sessions. */
export async function readSession(): Promise<StoredSession | null> {
  const id = useProject.getState().project?.id;
  await writing;
  return (id && (await readSetting<StoredSession>(keyOf(id)))) || null;
}

/** Stores the session with these changes, in the order they are made. */
export function changeSession(changes: Partial<StoredSession> | StoredSession): void {
  const id = useProject.getState().project?.id;
  const next = { ...current, ...changes } as StoredSession;
  if (!id || !next.secret) return;
  current = next;
  writing = writing.then(() => writeSetting(keyOf(id), next)).catch(notifyError);
}

/** Notes what has happened, with the moment: who came, with what input, what was lost. */
export function note(who: string, what: string): void {
  const log = [...useFar.getState().log, { at: Date.now(), who, what }].slice(-mostEntries);
  useFar.setState({ log });
  changeSession({ log });
}
