/** One array per channel, all of the same length; samples are linear, full scale is ±1. */
export type Planar = readonly Float32Array[];

/** The number of frames (one sample per channel) in planar audio. */
export const framesOf = (audio: Planar) => audio[0]?.length ?? 0;

/**
 * A 16-bit recording reaches 32767/32768 at full scale, so that value and everything above it counts as
 * clipped.
 */
export const clipThreshold = 32767 / 32768;

/**
 * Audio is recorded in blocks of this many frames (0.34 s at 48 kHz): a killed browser loses at most the last
 * one.
 */
export const blockFrames = 16384;

/** So many of them are one block where nothing is being recorded: read and written several times as fast. */
export const packedBlocks = 8;
