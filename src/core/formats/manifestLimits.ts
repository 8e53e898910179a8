/**
 * What a project file may hold; docs/formats.md lists it. Far beyond any real project, and small enough that
 * a file made to be odd opens in reasonable time, or is refused with the reason.
 */
export const limits = {
  hours: 100,
  parts: 10_000,
  tracks: 64,
  /** Pieces, struck passages, marks and places of one part, each. */
  pieces: 200_000,
  marks: 200_000,
  /** Of one bed. */
  clips: 1000,
  steps: 100_000,
  sources: 100_000,
  /** Earlier project files that hold recordings of this one. */
  files: 1000,
  channels: 32,
  lines: 100_000,
  routes: 4096,
  checks: 10_000,
  refused: 100_000,
  nameLetters: 1000,
  textLetters: 100_000,
  idLetters: 200,
  joinSeconds: 60,
  leastRateHz: 8000,
  mostRateHz: 192_000,
  /** Times are milliseconds since 1970, up to the year 9999. */
  time: 253_402_300_799_999,
} as const;

export const mostFrames = (rateHz: number) => limits.hours * 3600 * rateHz;
