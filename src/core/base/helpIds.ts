/** The pages of the help, by the names of their files in the folder `help`. */
export const helpIds = ['projects', 'brief', 'booth', 'cues', 'finish', 'proof', 'far', 'kept'] as const;
export type HelpId = (typeof helpIds)[number];

/** Each page ends with a section on what goes wrong, under this id. */
export const wrongSection = (id: string) => `${id}-wrong`;

export const helpAddress = (id: HelpId, wrong = false) => `/help#${wrong ? wrongSection(id) : id}`;

/** The page on what is shown at an address of the application; undefined where there is none. */
export function helpAt(path: string): HelpId | undefined {
  if (path === '/') return 'projects';
  const tab = /^\/project\/[^/]+\/(\w+)$/.exec(path)?.[1];
  return helpIds.find((id) => id === tab);
}
