import { useSyncExternalStore } from 'react';
import { canUseFolders } from '@/state/files/folders';

const never = () => () => undefined;

/** Whether this browser lets Parola use folders; known once the page is in a browser. */
export const useFolders = (): boolean => useSyncExternalStore(never, canUseFolders, () => false);
