import { create } from 'zustand';
import { readSetting, writeSetting } from '@/storage/settings';
import { notifyError } from './notices';

/**
 * Keys the user has changed, by command; belongs to this browser. A command that is not named has its own.
 */
export type KeyChanges = Readonly<Record<string, readonly string[]>>;

export const useKeymap = create<{ changes: KeyChanges }>(() => ({ changes: {} }));

const setting = 'keys';

export async function readKeymap(): Promise<void> {
  const changes = await readSetting<KeyChanges>(setting).catch(() => undefined);
  if (changes && typeof changes === 'object') useKeymap.setState({ changes });
}

/** Keeps other keys, from now on and for later visits. */
export function changeKeymap(changes: KeyChanges): void {
  useKeymap.setState({ changes });
  writeSetting(setting, changes).catch(notifyError);
}
