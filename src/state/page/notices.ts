import { create } from 'zustand';
import { toParolaError, type ErrorCode } from '@/core/base/errors';
import type { HelpId } from '@/core/base/helpIds';

export interface Notice {
  id: number;
  severity: 'info' | 'success' | 'warning' | 'error';
  text: string;
  /** Where there is more to say. */
  help?: HelpId;
}

/** Messages that belong to no field. */
export const useNotices = create<{ notices: Notice[] }>(() => ({ notices: [] }));

let nextId = 1;

export function notify(severity: Notice['severity'], text: string, help?: HelpId): void {
  useNotices.setState(({ notices }) => ({
    notices: [...notices.filter((notice) => notice.text !== text), { id: nextId++, severity, text, help }],
  }));
}

export function dismiss(id: number): void {
  useNotices.setState(({ notices }) => ({ notices: notices.filter((notice) => notice.id !== id) }));
}

export const dismissAll = (): void => useNotices.setState({ notices: [] });

/** Failures that have one help, wherever they happen. */
const helpOf: Partial<Record<ErrorCode, HelpId>> = {
  'storage-full': 'kept',
  'device-lost': 'booth',
  'no-device': 'booth',
  'permission-denied': 'booth',
  'unknown-spec': 'brief',
  'read-only': 'projects',
};

/**
 * Tells the user about a failure; a cancelled job is what the user asked for and says nothing. `help` is
 * where there is more to say of what was being done.
 */
export function notifyError(thrown: unknown, help?: HelpId): void {
  const error = toParolaError(thrown);
  if (error.code !== 'cancelled') notify('error', error.message, helpOf[error.code] ?? help);
}
