import type { BrowserContext, Page } from 'playwright-core';
import type { Row } from './row';

interface TraceEvent {
  name: string;
  /** Microseconds. */
  ts: number;
}

/** The browser itself is busy when a trace begins. */
const settleMs = 500;

/**
 * Scrolls the sheet for some seconds under a DevTools trace; counts frames drawn and dropped in the
 * compositor's timeline.
 */
export async function scrollTrace(page: Page): Promise<{ drawn: number; dropped: number; seconds: number }> {
  const devtools = await page.context().newCDPSession(page);
  const events: TraceEvent[] = [];
  devtools.on('Tracing.dataCollected', ({ value }) => events.push(...(value as unknown as TraceEvent[])));
  await devtools.send('Tracing.start', {
    traceConfig: {
      includedCategories: [
        'devtools.timeline',
        'disabled-by-default-devtools.timeline.frame',
        'devtools.timeline.frame',
        'blink.user_timing',
      ],
    },
    transferMode: 'ReportEvents',
  });
  await page.waitForTimeout(settleMs);
  const seconds = 4;
  await page.evaluate(async (length) => {
    const scroller = document.querySelector('[data-testid=sheet]')?.parentElement;
    const until = performance.now() + length * 1000;
    let step = 14;
    performance.mark('scroll-begins');
    while (performance.now() < until) {
      const before = scroller?.scrollTop;
      if (scroller) scroller.scrollTop += step;
      // At an end of the sheet it goes back.
      if (scroller?.scrollTop === before) step = -step;
      await new Promise(requestAnimationFrame);
    }
    performance.mark('scroll-ends');
  }, seconds);
  const complete = new Promise((resolve) => devtools.once('Tracing.tracingComplete', resolve));
  await devtools.send('Tracing.end');
  await complete;
  const [begin, end] = ['scroll-begins', 'scroll-ends'].map(
    (mark) => events.find(({ name }) => name === mark)?.ts ?? NaN,
  );
  if (!(end > begin)) throw new Error('The trace does not say when it was scrolled');
  const count = (wanted: string) =>
    events.filter(({ name, ts }) => name === wanted && ts >= begin && ts <= end).length;
  return {
    drawn: count('DrawFrame'),
    dropped: count('DroppedFrame'),
    seconds,
  };
}

/** How long the machine lets a loop wait that does nothing but look at the clock, at most, ms. */
function longestStallMs(seconds: number): number {
  const until = performance.now() + seconds * 1000;
  let longest = 0;
  for (let last = performance.now(); last < until;) {
    const now = performance.now();
    longest = Math.max(longest, now - last);
    last = now;
  }
  return longest;
}

/**
 * What scrolling costs by itself here: frames dropped, as by `scrollTrace`, in a page that does nothing but
 * copy one bitmap a frame into a canvas as large as a sheet; and the longest the machine itself stood still
 * in as many seconds, ms.
 */
export async function scrollLimit(context: BrowserContext, runs: number) {
  const page = await context.newPage();
  try {
    await page.setContent(
      '<div style="height:650px;overflow:auto"><div data-testid="sheet" style="height:200000px">' +
        '<canvas width="1280" height="650" style="position:sticky;top:0"></canvas></div></div>',
    );
    await page.evaluate(() => {
      const context = document.querySelector('canvas')?.getContext('2d');
      const row = new OffscreenCanvas(1280, 200);
      row.getContext('2d')?.fillRect(0, 0, 1280, 100);
      const bitmap = row.transferToImageBitmap();
      const scroller = document.querySelector('div');
      scroller?.addEventListener('scroll', () => {
        context?.clearRect(0, 0, 1280, 650);
        for (let top = -(scroller.scrollTop % 200); top < 650; top += 200) context?.drawImage(bitmap, 0, top);
      });
    });
    await page.waitForTimeout(2000);
    const dropped: number[] = [];
    while (dropped.length < runs) dropped.push((await scrollTrace(page)).dropped);
    return { dropped, stallMs: longestStallMs(4 * runs) };
  } finally {
    await page.close();
  }
}

export const toldScrollLimit = ({ dropped, stallMs }: Awaited<ReturnType<typeof scrollLimit>>): Row => [
  'Of scrolling: a page that only copies one bitmap a frame, frames dropped in as many runs; the longest the machine kept a loop waiting that only looks at the clock',
  `${dropped.join(', ')}; ${stallMs.toFixed(0)} ms`,
  'the limit of this machine',
];
