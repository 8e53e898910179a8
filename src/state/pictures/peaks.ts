import { PeakCache } from './peakCache';

/** One cache for the page: sources never change, so it outlives projects. */
export const peakCache = new PeakCache();
