/** A line of docs/benchmarks.md. */
export type Row = [what: string, figure: string, wanted: string];

export const median = (values: number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];
