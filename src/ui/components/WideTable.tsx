'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import { useCallback, useEffect, useRef, useState, type ReactNode } from 'react';

/**
 * A table that may be wider than its place: it scrolls sideways by pointer and arrow keys, and says that
 * there is more, and on which side.
 */
export function WideTable({ label, children }: { label: string; children: ReactNode }) {
  const scroller = useRef<HTMLDivElement>(null);
  const [more, setMore] = useState({ left: false, right: false });
  const look = useCallback(() => {
    const element = scroller.current;
    if (!element) return;
    const { scrollLeft, scrollWidth, clientWidth } = element;
    const next = { left: scrollLeft > 4, right: scrollLeft + clientWidth < scrollWidth - 4 };
    setMore((before) => (before.left === next.left && before.right === next.right ? before : next));
  }, []);
  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const observer = new ResizeObserver(look);
    observer.observe(element);
    if (element.firstElementChild) observer.observe(element.firstElementChild);
    return () => observer.disconnect();
  }, [look]);
  const words = [more.left && say`← more to the left`, more.right && say`more to the right →`].filter(
    Boolean,
  );
  return (
    <Box>
      <Box
        ref={scroller}
        onScroll={look}
        role="region"
        aria-label={label}
        // Only what can be scrolled is a stop for Tab.
        tabIndex={words.length > 0 ? 0 : undefined}
        sx={{ overflowX: 'auto' }}
      >
        {children}
      </Box>
      {words.length > 0 && (
        <Box role="note" sx={{ textAlign: 'right', fontSize: 12, color: 'text.secondary', pt: 0.25 }}>
          {words.join(' · ')}
        </Box>
      )}
    </Box>
  );
}
