import { say } from '@/texts/say';
import type { Chord } from './chord';

export const commandGroups = [
  'Record and play',
  'Move',
  'Select',
  'Edit',
  'Room and pauses',
  'Finds',
  'Mark',
  'Cues',
  'Mix',
  'Chain',
  'Look',
] as const;

/** What the groups are called. */
export const groupNames: Readonly<Record<(typeof commandGroups)[number], string>> = {
  'Record and play': say`Record and play`,
  Move: say`Move`,
  Select: say`Select`,
  Edit: say`Edit`,
  'Room and pauses': say`Room and pauses`,
  Finds: say`Finds`,
  Mark: say`Mark`,
  Cues: say`Cues`,
  Mix: say`Mix`,
  Chain: say`Chain`,
  Look: say`View`,
};

/**
 * When a command acts: with nothing recorded (what plays is stopped), during a take or its run-up, always, or
 * in the Finish screen, where what plays goes on.
 */
export type Situation = 'editing' | 'recording' | 'always' | 'mixing';

export interface Command {
  readonly label: string;
  /** What it is called in a menu or on a button, where there is less room. */
  readonly menu?: string;
  readonly group: (typeof commandGroups)[number];
  /** Its keys, until the user gives it others. */
  readonly keys: readonly Chord[];
  readonly when: Situation;
  /** Acts again and again while its key is held. */
  readonly repeats?: boolean;
  /** It looks first: what is pressed until its promise is kept waits for its turn. */
  readonly looks?: boolean;
  readonly run: () => unknown;
}
