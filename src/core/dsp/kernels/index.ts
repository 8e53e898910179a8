import { bytesOfBase64 } from './base64';
import type { Kernels } from './kernels';
import { compiled } from './module';
import { reference } from './reference';
import { wasmKernels } from './wasm';

let chosen: Kernels | null = null;

function best(): Kernels {
  try {
    return wasmKernels(bytesOfBase64(compiled));
  } catch {
    // No WebAssembly, or none with SIMD: the same results, later.
    return reference;
  }
}

/** The kernels of this thread: compiled ones where it has them, chosen at the first use. */
export const kernels = (): Kernels => (chosen ??= best());

/** Takes these from now on; null chooses anew. For tests and benchmarks. */
export function useKernels(these: Kernels | null): void {
  chosen = these;
}
