import type { Kernels } from '../kernels';
import { convertingKernels } from './converting';
import { flacKernels } from './flac';
import { openHost } from './host';
import { levelKernels } from './levels';
import { searchingKernels } from './searching';
import { spectrumKernels } from './spectra';

/**
 * The kernels as WebAssembly with SIMD. Throws where the host has none. The module is compiled at once: it is
 * small.
 */
export function wasmKernels(module: Uint8Array): Kernels {
  const host = openHost(module);
  return {
    kind: 'simd',
    ...levelKernels(host),
    ...convertingKernels(host),
    ...spectrumKernels(host),
    ...searchingKernels(host),
    ...flacKernels(host),
  };
}
