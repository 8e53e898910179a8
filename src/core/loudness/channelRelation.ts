import { powerToDb } from '../base/units';

/** How the two sides of a stereo file go together. */
export interface StereoRelation {
  /** −1 to 1; 1 for the same in both, −1 for one side inverted; 0 for silence. */
  correlation: number;
  /** Level of the left side over the right, dB; ±∞ with one side silent, 0 with both. */
  balanceDb: number;
  /** Every sample is the same in both sides: mono in two channels. */
  identical: boolean;
}

export interface RelationMark {
  readonly left: number;
  readonly right: number;
  readonly both: number;
  readonly identical: boolean;
}

/** Sums over two channels as they stream by. */
export class RelationMeter {
  private left = 0;
  private right = 0;
  private both = 0;
  private identical = true;

  process(left: Float32Array, right: Float32Array): void {
    let ll = 0;
    let rr = 0;
    let lr = 0;
    for (let i = 0; i < left.length; i++) {
      const l = left[i];
      const r = right[i];
      ll += l * l;
      rr += r * r;
      lr += l * r;
      if (l !== r) this.identical = false;
    }
    this.left += ll;
    this.right += rr;
    this.both += lr;
  }

  mark(): RelationMark {
    const { left, right, both, identical } = this;
    return { left, right, both, identical };
  }

  resume(mark: RelationMark): void {
    Object.assign(this, mark);
  }

  finish(): StereoRelation {
    const { left, right, both, identical } = this;
    const silent = left === 0 || right === 0;
    return {
      correlation: silent ? 0 : both / Math.sqrt(left * right),
      balanceDb: left === right ? 0 : powerToDb(left) - powerToDb(right),
      identical,
    };
  }
}
