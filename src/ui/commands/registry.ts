import { stopToEdit } from '@/state/hearing/playing';
import { isEditable, useTransport } from '@/state/hearing/transport';
import type { Command, Situation } from './command';
import { edits } from './groups/editing';
import { looking } from './groups/looking';
import { marking } from './groups/marking';
import { mixing } from './groups/mixing';
import { moving } from './groups/moving';
import { recordAndPlay } from './groups/recordAndPlay';
import { rooms } from './groups/rooms';
import { Turns } from './turns';

/** Every command there is, once: keys, menus, buttons and messages name them by their ids. */
const table = {
  ...recordAndPlay,
  ...moving,
  ...edits,
  ...rooms,
  ...marking,
  ...mixing,
  ...looking,
} satisfies Record<string, Command>;

export type CommandId = keyof typeof table;

export const commands: Readonly<Record<CommandId, Command>> = table;
export const commandIds = Object.keys(table) as CommandId[];
export const isCommandId = (id: string): id is CommandId => Object.hasOwn(table, id);

const isRecording = ({ mode }: { mode: string }) => mode === 'recording' || mode === 'rolling';

/** Whether a command is one for this situation; what plays is ended where that makes it so. */
const begins: Readonly<Record<Situation, () => boolean>> = {
  editing: stopToEdit,
  recording: () => isRecording(useTransport.getState()),
  always: () => true,
  mixing: () => isEditable(useTransport.getState()),
};

const turns = new Turns();

/**
 * Does what the first of these commands says that is one for this situation: one that acts changes it, and
 * the others were not meant. `held` is a key that repeats.
 */
export const press = (ids: readonly CommandId[], held = false): void =>
  turns.take({
    held,
    act() {
      const meant = ids.find((id) => begins[commands[id].when]());
      if (!meant) return null;
      const { looks, run: act } = commands[meant];
      const acting = act();
      return looks ? acting : null;
    },
  });

/** Does what a command says, if it is one for this situation. */
export const run = (id: CommandId): void => press([id]);

/** Commands of all screens that are meant in the Finish screen too, where nothing is recorded or cut. */
const alsoMixing: ReadonlySet<CommandId> = new Set<CommandId>([
  ...commandIds.filter((id) => commands[id].group === 'Move' || commands[id].group === 'Select'),
  ...(['play', 'stop', 'playSelection', 'playJoin', 'loop', 'undo', 'redo', 'allKeys'] as const),
  ...(['fewerSeconds', 'moreSeconds', 'spectrum'] as const),
]);

export type Screen = 'booth' | 'finish';

/** Whether a command is meant by its keys in a screen. */
export const isMeantIn = (screen: Screen, id: CommandId): boolean =>
  screen === 'finish' ? commands[id].when === 'mixing' || alsoMixing.has(id) : commands[id].when !== 'mixing';

/** Two commands may share a key when they are never both meant. */
export const canShare = (a: CommandId, b: CommandId): boolean => {
  if (commands[a].when === 'mixing' || commands[b].when === 'mixing')
    return (['booth', 'finish'] as const).every((screen) => !(isMeantIn(screen, a) && isMeantIn(screen, b)));
  const [one, other] = [commands[a].when, commands[b].when];
  return one !== other && one !== 'always' && other !== 'always';
};
