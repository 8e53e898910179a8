'use client';
import Box from '@mui/material/Box';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';
import { Contained } from './Contained';

interface Props<Item> {
  items: readonly Item[];
  keyOf: (item: Item) => string;
  /** What a row is called, where its words do not say it. */
  nameOf?: (item: Item) => string;
  /** About how high a row is, in pixels; each is measured when it is shown. */
  estimate: (item: Item, index: number) => number;
  row: (item: Item, index: number) => ReactNode;
  /** What a row is called when it cannot be shown. */
  what: string;
  label: string;
  /** Kept in view. */
  current?: number;
  testId?: string;
  /** At the sides of the rows, in the theme's units. */
  padding?: number;
  /** As high as its rows where there is room, instead of filling it. */
  fitting?: boolean;
}

/** A list that fills what is left of its column and draws only the rows that are seen, of however many. */
export function VirtualList<Item>(props: Props<Item>) {
  const {
    items,
    keyOf,
    nameOf,
    estimate,
    row,
    what,
    label,
    current,
    testId,
    padding = 0,
    fitting = false,
  } = props;
  const scroller = useRef<HTMLDivElement>(null);
  // The virtualiser's functions change with every scroll by design, so this component is not memoised.
  // eslint-disable-next-line react-hooks/incompatible-library
  const list = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => estimate(items[index], index),
    overscan: 6,
    getItemKey: (index) => keyOf(items[index]),
  });
  useEffect(() => {
    if (current !== undefined && items.length > 0) list.scrollToIndex(current, { align: 'auto' });
  }, [current, items.length, list]);
  return (
    <Box
      ref={scroller}
      sx={{ overflowY: 'auto', flex: fitting ? '0 1 auto' : 1, minHeight: 0, py: fitting ? 0 : 1 }}
      data-testid={testId}
    >
      <Box
        component="ol"
        aria-label={label}
        sx={{ position: 'relative', m: 0, p: 0, listStyle: 'none' }}
        style={{ height: list.getTotalSize() }}
      >
        {list.getVirtualItems().map((item) => (
          <Box
            component="li"
            key={item.key}
            data-index={item.index}
            aria-label={nameOf?.(items[item.index])}
            aria-setsize={items.length}
            aria-posinset={item.index + 1}
            ref={list.measureElement}
            sx={{ position: 'absolute', width: '100%', px: padding }}
            style={{ transform: `translateY(${item.start}px)` }}
          >
            <Contained what={what}>{row(items[item.index], item.index)}</Contained>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
