import { say } from '@/texts/say';
import { formatDistanceStrict } from 'date-fns';
import { useEffect, useState } from 'react';

const everyMs = 5000;

/** How long ago a moment is, in words that are kept true; null where there was none. */
export function useAgo(at: number | null): string | null {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    if (at === null) return;
    const timer = setInterval(() => setNow(Date.now()), everyMs);
    return () => clearInterval(timer);
  }, [at]);
  if (at === null) return null;
  return now - at < everyMs ? say`just now` : formatDistanceStrict(at, now, { addSuffix: true });
}
