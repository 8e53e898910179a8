import { Room, type Memory } from '../room';

/** What of WebAssembly is used; the core is compiled without the declarations of any host. */
interface WebAssemblyLike {
  Memory: new (settings: { initial: number }) => Memory;
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: unknown };
}

type Call = (...numbers: number[]) => number;
type Exports = Record<
  | 'weightedHops'
  | 'hopSquares'
  | 'peaks'
  | 'truePeak'
  | 'spread'
  | 'resample'
  | 'resampleBetween'
  | 'pack24'
  | 'packPairs24'
  | 'unpack24'
  | 'unpackPairs24'
  | 'sections'
  | 'spectra'
  | 'addFrames'
  | 'cepstra'
  | 'planes'
  | 'searchTemplate'
  | 'flacResidual',
  Call
>;

/** Memory never shrinks: longer audio goes through in pieces of so many samples. */
export const pieceFrames = 65_536;

/** Ranges of `length` things, at most `most` long. */
export function* piecesOf(length: number, most: number): Generator<{ from: number; to: number }> {
  for (let from = 0; from < length; from += most) yield { from, to: Math.min(length, from + most) };
}

/** The compiled kernels and the memory they work in. */
export interface Host {
  readonly wasm: Exports;
  readonly room: Room;
}

/** Throws where the host has no WebAssembly with SIMD. */
export function openHost(module: Uint8Array): Host {
  const host = (globalThis as unknown as { WebAssembly: WebAssemblyLike }).WebAssembly;
  const memory = new host.Memory({ initial: 1 });
  const imports = { env: { memory, abort: () => undefined }, host: { log: Math.log } };
  const wasm = new host.Instance(new host.Module(module), imports).exports as Exports;
  return { wasm, room: new Room(memory) };
}
