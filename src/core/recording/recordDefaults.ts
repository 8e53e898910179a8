/** How Record works in a project in which nothing was set. */
export const recordDefaults = {
  mode: 'continue',
  runUpSeconds: 5,
  countIn: 'none',
  fixedSeconds: null,
  keepGoing: false,
  hearOthers: true,
  patchLength: 'selection',
} as const;
