/**
 * The lowest of the indices 0 … count − 1 for which `holds` is true, `count` where it is true for none.
 * `holds` must be false up to some index and true from there on; it is asked for log₂ of the count of them.
 */
export function firstIndex(count: number, holds: (index: number) => boolean): number {
  let low = 0;
  let high = count;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (holds(middle)) high = middle;
    else low = middle + 1;
  }
  return low;
}
