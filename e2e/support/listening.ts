import type { Page } from 'playwright-core';

/** A sound that begins after a moment of silence: its frame of the context, and when it is heard. */
export interface HeardSound {
  frame: number;
  atMs: number;
}

/** A picture of a film that was given to the screen. */
export interface SeenPicture {
  mediaSeconds: number;
  shownMs: number;
}

export interface Noted {
  sounds: HeardSound[];
  pictures: SeenPicture[];
}

/**
 * Notes what the page gives the browser to play, each buffer with its frame of the context, and which
 * pictures of its film are shown when; times are those of the page's clock, as the browser tells them.
 */
export async function noteWhatIsHeard(page: Page): Promise<() => Promise<Noted>> {
  await page.evaluate(`(() => {
    const quietFrames = 900, least = 0.05;
    const noted = (window.noted = { sounds: [], pictures: [], offsets: [], on: true, context: null });
    const { start } = AudioBufferSourceNode.prototype;
    let loudAt = -Infinity;
    AudioBufferSourceNode.prototype.start = function (when, ...more) {
      noted.context = this.context;
      const samples = this.buffer.getChannelData(0);
      const first = Math.round(when * this.context.sampleRate);
      for (let i = 0; noted.on && i < samples.length; i++) {
        if (Math.abs(samples[i]) < least) continue;
        if (first + i - loudAt > quietFrames) noted.sounds.push(first + i);
        loudAt = first + i;
      }
      return start.call(this, when, ...more);
    };
    const video = document.querySelector('[data-testid=film]');
    const shown = (_now, { mediaTime, expectedDisplayTime }) => {
      noted.pictures.push({ mediaSeconds: mediaTime, shownMs: expectedDisplayTime });
      if (noted.on) video.requestVideoFrameCallback(shown);
    };
    if (video) video.requestVideoFrameCallback(shown);
    const clock = () => {
      if (!noted.on) return;
      const { context } = noted;
      if (context) {
        const heard = context.currentTime - context.outputLatency;
        noted.offsets.push({ heard, offset: performance.now() - heard * 1000 });
      }
      requestAnimationFrame(clock);
    };
    clock();
    noted.restore = () => (AudioBufferSourceNode.prototype.start = start);
  })()`);
  return () =>
    page.evaluate(`(() => {
      const { sounds, pictures, offsets, context, restore } = noted;
      noted.on = false;
      restore();
      const now = performance.now();
      // A busy machine lets its sound pause: what is heard then is later by that from there on.
      const offsetAt = (seconds) => {
        const near = offsets.filter(({ heard }) => Math.abs(heard - seconds) < 0.15).map(({ offset }) => offset);
        return near.sort((a, b) => a - b)[near.length >> 1];
      };
      const heard = sounds
        .map((frame) => ({ frame, offset: offsetAt(frame / context.sampleRate) }))
        .filter(({ offset }) => offset !== undefined)
        .map(({ frame, offset }) => ({ frame, atMs: (frame / context.sampleRate) * 1000 + offset }))
        .filter(({ atMs }) => atMs < now);
      return { sounds: heard, pictures };
    })()`);
}
