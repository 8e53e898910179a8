import { ParolaError } from '@/core/base/errors';

export interface FuzzResult {
  tried: number;
  refused: number;
  /** What broke the rules, and how. */
  broken: string[];
}

/** Words that no message for a voice artist has: they are a library's, or the language's own. */
const foreignWords =
  /is not a function|undefined|\bNaN\b|\[object|Cannot read|Unexpected token|TypeError|RangeError|must be a `|at \w+ \(/;

/** Steps of a loop that every machine can do; the pace of the machine is told in it. */
const paceSteps = 40_000_000;
/** What they take on the machine the limits were set on. */
const paceMs = 150;

/** How many times slower this machine is now than the one the limits were set on; never under 1. */
function pace(): number {
  const before = process.cpuUsage();
  let sum = 0;
  for (let i = 0; i < paceSteps; i++) sum = (sum * 31 + i) % 65_521;
  const took = process.cpuUsage(before).user / 1000;
  return sum < 0 ? Infinity : Math.max(1, took / paceMs);
}

/** Follows what is tried: refusing with a reason is right, anything else thrown is not. */
export class Findings implements FuzzResult {
  tried = 0;
  refused = 0;
  readonly broken: string[] = [];

  private readonly pace = pace();

  /** `work` may end or refuse within so much time of the processor, on a machine of the usual pace. */
  async watch(name: string, mostMs: number, work: () => Promise<void> | void): Promise<void> {
    this.tried++;
    const before = process.cpuUsage();
    try {
      await work();
    } catch (error) {
      if (!(error instanceof ParolaError))
        this.broken.push(
          `${name}: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`,
        );
      else if (foreignWords.test(error.message)) this.broken.push(`${name}: says “${error.message}”`);
      else this.refused++;
    }
    const took = process.cpuUsage(before).user / 1000;
    if (took > mostMs * this.pace) this.broken.push(`${name}: ${Math.round(took)} ms`);
  }

  /** A rule that `name` must keep. */
  expect(name: string, holds: boolean, told: string): void {
    if (!holds) this.broken.push(`${name}: ${told}`);
  }
}
