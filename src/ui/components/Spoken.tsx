'use client';
import { useEffect, useSyncExternalStore, type ReactNode } from 'react';
import { language } from '@/texts/say';

const never = () => () => undefined;

/**
 * What is said to the user, in the browser alone: only there it is known in which language. A server would
 * say it in English.
 */
export function Spoken({ children }: { children: ReactNode }) {
  const here = useSyncExternalStore(
    never,
    () => true,
    () => false,
  );
  useEffect(() => {
    document.documentElement.lang = language;
  }, []);
  return here ? children : null;
}
