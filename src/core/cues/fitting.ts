import type { Range } from '../timeline/range';
import type { Spoken } from './againstGuide';

/** How far a take may be changed to fit. */
export interface FitLimits {
  /** Of its length, 0 to 0.2: faster or slower at the same pitch by at most so much. */
  readonly stretch: number;
  /** A pause keeps at least so many frames, and grows by at most its own length. */
  readonly pauseFrames: number;
}

/** What is done to a take: in its own frames as it was recorded, but where said otherwise. */
export interface FitPlan {
  /** Frames that each pause gets more (or less), in order of the pauses. */
  readonly pauses: readonly number[];
  /** What the whole take is played faster by: 1 as it is, 1.05 for 5 % shorter. */
  readonly speed: number;
  /** What remains too long (or too short, below 0), because limits forbid more. */
  readonly restFrames: number;
}

/** Less than that nobody changes a reading for. */
const leastShare = 0.005;

/**
 * Plans how a take that is `longFrames` too long becomes as long as its guide: its pauses first, each as much
 * as it can bear in proportion, and only what is left over in time.
 */
export function planFit(spoken: Spoken, longFrames: number, limits: FitLimits): FitPlan {
  const wanted = -longFrames;
  const bears = spoken.pauses.map(({ from, to }) =>
    wanted > 0 ? to - from : -Math.max(0, to - from - limits.pauseFrames),
  );
  const most = bears.reduce((sum, one) => sum + one, 0);
  const share = most === 0 ? 0 : Math.min(1, wanted / most);
  const pauses = bears.map((one) => Math.round(one * share));
  const given = pauses.reduce((sum, one) => sum + one, 0);
  const length = spoken.to - spoken.from + given;
  const left = wanted - given;
  if (length <= 0 || Math.abs(left) < leastShare * length) return { pauses, speed: 1, restFrames: 0 - left };
  const target = length + left;
  const speed = Math.min(1 + limits.stretch, Math.max(1 - limits.stretch, length / Math.max(1, target)));
  return { pauses, speed, restFrames: Math.round(length / speed - target) };
}

/** A stretch of a take that is heard, or a pause that is filled. */
export type FitPiece =
  | { readonly kind: 'take'; readonly from: number; readonly to: number }
  | { readonly kind: 'room'; readonly frames: number };

/**
 * The pieces a fitted take is made of: stretches of its recording at its new speed (frames of that recording)
 * and what is added to pauses. `frames` is how long that recording is.
 */
export function fitPieces(spoken: Spoken, { pauses, speed }: FitPlan, frames: number): FitPiece[] {
  const at = (frame: number) => Math.min(frames, Math.round(frame / speed));
  const pieces: FitPiece[] = [];
  let from = 0;
  spoken.pauses.forEach((pause: Range, index) => {
    const change = Math.round(pauses[index] / speed);
    if (change === 0) return;
    // In the middle of the pause: what is breathed at its ends stays.
    const middle = at((pause.from + pause.to) / 2);
    if (change > 0) {
      pieces.push({ kind: 'take', from, to: middle }, { kind: 'room', frames: change });
      from = middle;
    } else {
      const cut = middle + Math.trunc(change / 2);
      pieces.push({ kind: 'take', from, to: cut });
      from = cut - change;
    }
  });
  pieces.push({ kind: 'take', from, to: frames });
  return pieces.filter((piece) => (piece.kind === 'room' ? piece.frames > 0 : piece.to > piece.from));
}
