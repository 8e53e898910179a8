import type { CueState } from '@/core/timeline/cueState';

export const cueStateNames: Readonly<Record<CueState, string>> = {
  toDo: 'to do',
  recorded: 'recorded',
  done: 'done',
};
