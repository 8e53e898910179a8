import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';

export interface Notice {
  id: number;
  severity: 'info' | 'success' | 'warning' | 'error';
  text: string;
}

/** Messages that belong to no field. */
export const useNotices = create<{ notices: Notice[] }>(() => ({ notices: [] }));

let nextId = 1;

export function notify(severity: Notice['severity'], text: string): void {
  useNotices.setState(({ notices }) => ({
    notices: [...notices.filter((notice) => notice.text !== text), { id: nextId++, severity, text }],
  }));
}

export function dismiss(id: number): void {
  useNotices.setState(({ notices }) => ({ notices: notices.filter((notice) => notice.id !== id) }));
}

export const dismissAll = (): void => useNotices.setState({ notices: [] });

/** Tells the user about a failure; a cancelled job is what the user asked for and says nothing. */
export function notifyError(thrown: unknown): void {
  const error = toParolaError(thrown);
  if (error.code !== 'cancelled') notify('error', error.message);
}
