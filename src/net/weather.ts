import { SimulatedLine, type Weather } from '@/core/far/simulatedLine';
import type { Line } from './peer';

/**
 * A line as it would be over a network with that weather: whatever is sent and whatever comes is later,
 * doubled or lost. For trying things out; the sound itself is not touched.
 */
export class Weathered {
  private readonly there: SimulatedLine;
  private readonly back: SimulatedLine;

  constructor(weather: Weather, seed: number) {
    this.there = new SimulatedLine(weather, seed);
    this.back = new SimulatedLine(weather, seed + 1);
  }

  send(line: Line): Pick<Line, 'sendText' | 'sendBytes'> {
    return {
      sendText: (data) => this.later(this.there, () => line.sendText(data)),
      sendBytes: (data) => this.later(this.there, () => line.sendBytes(data)),
    };
  }

  receive<T>(take: (data: T) => void): (data: T) => void {
    return (data) => this.later(this.back, () => take(data));
  }

  private later(line: SimulatedLine, what: () => void) {
    const now = performance.now();
    for (const ms of line.arrivals(now)) setTimeout(what, ms - now);
  }
}
