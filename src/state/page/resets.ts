/**
 * What a store holds of a project does not outlive it: every store that holds some registers here how it is
 * emptied. Called when a project is closed, in the order of registering.
 */
const resets: (() => void)[] = [];

export function whenProjectCloses(reset: () => void): void {
  resets.push(reset);
}

export function resetStores(): void {
  for (const reset of resets) reset();
}
