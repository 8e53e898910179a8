/**
 * The seeds 0, 1, 2 … a test of random work goes through: `count` of them, or as many as the environment's
 * SEEDS says (fewer where time is short, more where somebody looks for trouble).
 */
export const seeds = (count: number): number[] =>
  Array.from({ length: Number(process.env.SEEDS ?? count) }, (_, seed) => seed);
