import { say } from '@/texts/say';
import { kernels } from '@/core/dsp/kernels';
import { notify } from './notices';

let told = false;

/** Says once that this browser computes without SIMD: the same results, later. */
export function tellSlowKernels(): void {
  if (told || kernels().kind === 'simd') return;
  told = true;
  notify(
    'info',
    say`This browser cannot compute several samples at once (WebAssembly SIMD): long jobs take several times as long here. What comes out is the same.`,
  );
}
