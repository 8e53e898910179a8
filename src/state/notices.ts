import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';

export interface Notice {
  id: number;
  severity: 'info' | 'success' | 'warning' | 'error';
  text: string;
}

/** Messages that belong to no field. Warnings and errors stay until dismissed, so that nobody misses why a recording stopped. */
export const useNotices = create<{ notices: Notice[] }>(() => ({ notices: [] }));

let nextId = 1;
/** Time to read what only says how things are. */
const shownMs = 9000;

export function notify(severity: Notice['severity'], text: string): void {
  const id = nextId++;
  useNotices.setState(({ notices }) => ({
    notices: [...notices.filter((notice) => notice.text !== text), { id, severity, text }],
  }));
  if (severity === 'info' || severity === 'success') setTimeout(() => dismiss(id), shownMs);
}

export function dismiss(id: number): void {
  useNotices.setState(({ notices }) => ({ notices: notices.filter((notice) => notice.id !== id) }));
}

/** Tells the user about a failure; a cancelled job is what the user asked for and says nothing. */
export function notifyError(thrown: unknown): void {
  const error = toParolaError(thrown);
  if (error.code !== 'cancelled') notify('error', error.message);
}
