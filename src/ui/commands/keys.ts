import { useSyncExternalStore } from 'react';
import { changeKeymap, useKeymap, type KeyChanges } from '@/state/page/keymap';
import { chordText, isChord, type Chord } from './chord';
import { canShare, commandIds, commands, isCommandId, type CommandId } from './registry';

/** The keys a command has now: the user's, or its own. */
export const keysOf = (id: CommandId, changes: KeyChanges = useKeymap.getState().changes): readonly Chord[] =>
  (Object.hasOwn(changes, id) ? changes[id] : commands[id].keys).filter(isChord);

/** The commands that would be meant by a chord together with `id`: it cannot have the chord while they do. */
export const conflictsOf = (
  id: CommandId,
  chord: Chord,
  changes: KeyChanges = useKeymap.getState().changes,
): CommandId[] =>
  commandIds.filter(
    (other) => other !== id && keysOf(other, changes).includes(chord) && !canShare(id, other),
  );

let known: { changes: KeyChanges; byChord: ReadonlyMap<Chord, readonly CommandId[]> } | null = null;

/** The commands of a chord, as the keys are now. */
export function commandsOf(chord: Chord): readonly CommandId[] {
  const { changes } = useKeymap.getState();
  if (known?.changes !== changes) {
    const byChord = new Map<Chord, CommandId[]>();
    for (const id of commandIds)
      for (const key of keysOf(id, changes)) byChord.set(key, [...(byChord.get(key) ?? []), id]);
    known = { changes, byChord };
  }
  return known.byChord.get(chord) ?? [];
}

const sameKeys = (a: readonly Chord[], b: readonly Chord[]) =>
  a.length === b.length && a.every((chord, index) => chord === b[index]);

/** Changes as they are kept: only of commands that have other keys than their own. */
const onlyChanged = (changes: KeyChanges): KeyChanges =>
  Object.fromEntries(
    Object.entries(changes).filter(([id, keys]) => isCommandId(id) && !sameKeys(keys, commands[id].keys)),
  );

export const setKeys = (id: CommandId, keys: readonly Chord[]) =>
  changeKeymap(onlyChanged({ ...useKeymap.getState().changes, [id]: keys }));

/**
 * Gives a chord to a command, in addition to those it has or in place of one, and takes it from whoever had
 * it.
 */
export function giveKey(id: CommandId, chord: Chord, inPlaceOf: Chord | null): void {
  const { changes } = useKeymap.getState();
  const without = conflictsOf(id, chord, changes).map((other) => [
    other,
    keysOf(other, changes).filter((key) => key !== chord),
  ]);
  const own = keysOf(id, changes).filter((key) => key !== chord);
  const at = inPlaceOf === null ? own.length : Math.max(0, own.indexOf(inPlaceOf));
  const keys = [...own.slice(0, at), chord, ...own.slice(inPlaceOf === null ? at : at + 1)];
  changeKeymap(onlyChanged({ ...changes, ...Object.fromEntries(without), [id]: keys }));
}

export const isChanged = (id: CommandId) => Object.hasOwn(useKeymap.getState().changes, id);

/**
 * A command has its own keys again. Those that meanwhile belong to another one are not taken from it: they
 * are returned, with who has them.
 */
export function resetKeys(id: CommandId): { chord: Chord; by: CommandId }[] {
  const { [id]: _own, ...rest } = useKeymap.getState().changes;
  const taken = commands[id].keys.flatMap((chord) =>
    conflictsOf(id, chord, rest).map((by) => ({ chord, by })),
  );
  const free = commands[id].keys.filter((chord) => !taken.some((one) => one.chord === chord));
  changeKeymap(onlyChanged({ ...rest, [id]: free }));
  return taken;
}

export const resetAllKeys = () => changeKeymap({});

// — In words —

export const platform = () => (typeof navigator === 'undefined' ? '' : navigator.platform);

/** A command's first key in the user's words; empty where it has none. */
export function keyText(id: CommandId, changes?: KeyChanges): string {
  const [first] = keysOf(id, changes);
  return first ? chordText(first, platform()) : '';
}

/** Keys as they are now, for whatever shows them. */
export function useKeyText(): (id: CommandId) => string {
  const changes = useSyncExternalStore(
    useKeymap.subscribe,
    () => useKeymap.getState().changes,
    () => useKeymap.getInitialState().changes,
  );
  return (id) => keyText(id, changes);
}

/**
 * A message with `{key:id}` in it, with the key the command has now; a command without one is called by its
 * name.
 */
export const withKeys = (text: string): string =>
  text.replace(/\{key:(\w+)\}/g, (whole, id: string) =>
    isCommandId(id) ? keyText(id) || `“${commands[id].menu ?? commands[id].label}”` : whole,
  );
