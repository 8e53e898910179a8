import type { Kernels, Oversampling, Weighting } from '../kernels';
import { overGroup } from '../oversampling';
import { peakStretch } from '../reference';
import { pieceFrames, piecesOf, type Host } from './host';

/**
 * What the filters of K-weighting, at rest but for one state variable, put out in a quarter of a hop: four
 * numbers a sample, one for each variable; then the four variables after it, a row for each.
 */
function quarterResponses({ shelf, highPass }: Weighting, quarter: number): Float64Array {
  const responses = new Float64Array(4 * quarter + 16);
  for (let variable = 0; variable < 4; variable++) {
    let [s1, s2, t1, t2] = [0, 1, 2, 3].map((one) => (one === variable ? 1 : 0));
    for (let i = 0; i < quarter; i++) {
      const shelved = s1;
      s1 = s2 - shelf.a1 * shelved;
      s2 = -shelf.a2 * shelved;
      const y = shelved + t1;
      t1 = t2 - 2 * shelved - highPass.a1 * y;
      t2 = shelved - highPass.a2 * y;
      responses[4 * i + variable] = y;
    }
    responses.set([s1, s2, t1, t2], 4 * quarter + 4 * variable);
  }
  return responses;
}

/** Weighted levels, squares and peaks. */
export function levelKernels({
  wasm,
  room,
}: Host): Pick<Kernels, 'weightedHops' | 'hopSquares' | 'peaks' | 'truePeak'> {
  const responses = new WeakMap<Weighting, Float64Array>();

  function weightedHops(
    samples: Float32Array,
    hopFrames: number,
    weighting: Weighting,
    state: Float64Array,
    output: Float64Array,
  ) {
    const quarter = hopFrames >> 2;
    let response = responses.get(weighting);
    if (response?.length !== 4 * quarter + 16) {
      response = quarterResponses(weighting, quarter);
      responses.set(weighting, response);
    }
    const { shelf, highPass } = weighting;
    for (const { from, to } of piecesOf(
      output.length / 4,
      Math.max(1, Math.floor(pieceFrames / hopFrames)),
    )) {
      const hops = to - from;
      const frames = hops * hopFrames;
      const [audio, filter, answers, states, results, scratch] = room.take(
        frames * 4,
        7 * 8,
        response.byteLength,
        4 * 8,
        hops * 32,
        quarter * 32,
      );
      room.floats(audio, frames).set(samples.subarray(from * hopFrames, to * hopFrames));
      const { b0, b1, b2, a1, a2 } = shelf;
      room.doubles(filter, 7).set([b0, b1, b2, a1, a2, highPass.a1, highPass.a2]);
      room.doubles(answers, response.length).set(response);
      room.doubles(states, 4).set(state);
      wasm.weightedHops(audio, hops, hopFrames, filter, answers, states, results, scratch);
      state.set(room.doubles(states, 4));
      output.set(room.doubles(results, hops * 4), from * 4);
    }
  }

  function hopSquares(samples: Float32Array, hopFrames: number, output: Float64Array) {
    for (const { from, to } of piecesOf(output.length, 4 * Math.ceil(pieceFrames / (4 * hopFrames)))) {
      const frames = (to - from) * hopFrames;
      const [audio, sums] = room.take(frames * 4, (to - from) * 8);
      room.floats(audio, frames).set(samples.subarray(from * hopFrames, to * hopFrames));
      wasm.hopSquares(audio, to - from, hopFrames, sums);
      output.set(room.doubles(sums, to - from), from);
    }
  }

  function peaks(samples: Float32Array, output: Float32Array) {
    for (const { from, to } of piecesOf(output.length / 3, pieceFrames / peakStretch)) {
      const frames = (to - from) * peakStretch;
      const [audio, results] = room.take(frames * 4, (to - from) * 12);
      room.floats(audio, frames).set(samples.subarray(from * peakStretch, to * peakStretch));
      wasm.peaks(audio, to - from, results);
      output.set(room.floats(results, (to - from) * 3), from * 3);
    }
  }

  function truePeak(samples: Float32Array, highest: number, { factor, table, bend }: Oversampling): number {
    const groups = Math.floor(samples.length / overGroup);
    let found = highest;
    // Each piece looks at the starting points of all but its last two groups.
    for (const { from, to } of piecesOf(Math.max(0, groups - 2), pieceFrames / overGroup)) {
      const frames = (to + 2 - from) * overGroup;
      const [audio, weights, scratch] = room.take(frames * 4 + 8, table.byteLength, (to + 2 - from) * 8);
      const held = room.floats(audio, frames + 2);
      held.fill(0, frames);
      held.set(samples.subarray(from * overGroup, from * overGroup + frames));
      room.doubles(weights, table.length).set(table);
      found = wasm.truePeak(audio, to + 2 - from, found, factor, weights, bend, scratch);
    }
    return found;
  }

  return { weightedHops, hopSquares, peaks, truePeak };
}
