import type { CDPSession } from 'playwright-core';
import type { App } from './app';
import { baseUrl } from './server';

/** The storage this origin may have: so many bytes more than it uses, or as much as the browser gives. */
export async function quotaOf({ context, page }: App) {
  const devtools: CDPSession = await context.newCDPSession(page);
  return {
    leave: async (bytes: number) => {
      const { usage } = await devtools.send('Storage.getUsageAndQuota', { origin: baseUrl });
      await devtools.send('Storage.overrideQuotaForOrigin', { origin: baseUrl, quotaSize: usage + bytes });
    },
    release: () => devtools.send('Storage.overrideQuotaForOrigin', { origin: baseUrl }),
  };
}
