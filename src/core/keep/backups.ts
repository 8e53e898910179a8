import type { StoredSource } from './space';

/** After so many hours of recording since the last project file the user is reminded of one. */
export const reminderHours = [0.5, 1, 2, 4] as const;
export const usualReminderHours = 1;

export interface BackedUpSource extends StoredSource {
  id: string;
  rateHz: number;
  role?: string;
  state: string;
  deleted?: boolean;
}

/** What was recorded or imported and stands in no project file yet. */
export function newSince<Source extends BackedUpSource>(
  sources: readonly Source[],
  held: ReadonlySet<string>,
): Source[] {
  return sources.filter(
    ({ id, state, deleted, role }) =>
      state === 'kept' && !deleted && role !== 'line' && role !== 'far' && !held.has(id),
  );
}

/** Their length in hours, over all channels as one. */
export const hoursOf = (sources: readonly Pick<BackedUpSource, 'frames' | 'rateHz'>[]): number =>
  sources.reduce((sum, { frames, rateHz }) => sum + frames / rateHz / 3600, 0);
