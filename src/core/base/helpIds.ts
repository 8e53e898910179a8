/** The pages of the help, by the names of their files in the folder `help`. */
export const helpIds = ['projects', 'brief', 'booth', 'cues', 'finish', 'proof', 'far', 'kept'] as const;
export type HelpId = (typeof helpIds)[number];

export const helpAddress = (id: HelpId) => `/help#${id}`;
