import { useState } from 'react';

/** The value that was there before for as long as the new one is the same to whoever looks at it. */
export function useStable<T>(value: T, same: (a: T, b: T) => boolean): T {
  const [held, setHeld] = useState(value);
  if (held === value || same(held, value)) return held;
  setHeld(value);
  return value;
}
