import type { Page } from 'playwright-core';

/** What goes to the loudspeakers is listened to, and keys are timed, in `window.hook`. */
export async function listenIn(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const { connect } = AudioNode.prototype;
    const hook = { heard: null as AnalyserNode | null, keyAt: 0 };
    Object.assign(window, { hook });
    AudioNode.prototype.connect = function (this: AudioNode, to: never, ...more: never[]) {
      if ((to as unknown) instanceof AudioDestinationNode) {
        hook.heard ??= new AnalyserNode(this.context, { fftSize: 256 });
        (connect as (to: AudioNode) => AudioNode).call(this, hook.heard);
      }
      return connect.call(this, to, ...more);
    } as typeof connect;
    addEventListener('keydown', () => (hook.keyAt = performance.now()), true);
  });
}
