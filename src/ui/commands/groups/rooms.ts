import { say } from '@/texts/say';
import {
  acceptAllLikeCurrent,
  acceptProposal,
  hearProposal,
  refuseProposal,
  stepToProposal,
} from '@/state/finds/proposals';
import {
  findTone,
  hearTone,
  patchTone,
  showTone,
  useSelectionAsTone as keepSelectionAsTone,
} from '@/state/finds/roomTone';
import * as editing from '@/state/sheet/editing';
import * as actions from '../actions';
import type { Command } from '../command';

/** Keys for the room, for pauses, and for what was found. */
export const rooms = {
  patchTone: {
    label: say`Patch tone over the selection`,
    group: 'Room and pauses',
    keys: ['t'],
    when: 'editing',
    looks: true,
    run: () => patchTone(),
  },
  hearTone: {
    label: say`Hear the room tone`,
    group: 'Room and pauses',
    keys: ['shift+t'],
    when: 'always',
    run: () => void hearTone(),
  },
  silence: {
    label: say`Silence over the selection`,
    group: 'Room and pauses',
    keys: ['shift+x'],
    when: 'editing',
    run: editing.silenceSelection,
  },
  setPause: {
    label: say`Set the length of the pause`,
    group: 'Room and pauses',
    keys: ['o'],
    when: 'editing',
    looks: true,
    run: () => editing.setPause(),
  },
  findTone: {
    label: say`Find room tone`,
    group: 'Room and pauses',
    keys: [],
    when: 'editing',
    run: () => void findTone(true),
  },
  showTone: {
    label: say`Show where the room tone is from`,
    group: 'Room and pauses',
    keys: [],
    when: 'editing',
    run: showTone,
  },
  selectionIsTone: {
    label: say`Use the selection as room tone`,
    group: 'Room and pauses',
    keys: [],
    when: 'editing',
    run: () => void keepSelectionAsTone(),
  },
  lookThrough: {
    label: say`Look through the part`,
    group: 'Finds',
    keys: ['x'],
    when: 'editing',
    run: actions.lookThroughPart,
  },
  nextProposal: {
    label: say`Next proposal`,
    group: 'Finds',
    keys: ['g'],
    when: 'editing',
    run: () => stepToProposal(1),
  },
  previousProposal: {
    label: say`Previous proposal`,
    group: 'Finds',
    keys: ['shift+g'],
    when: 'editing',
    run: () => stepToProposal(-1),
  },
  hearProposal: {
    label: say`Hear it as it will sound`,
    group: 'Finds',
    keys: ['h'],
    when: 'always',
    run: () => void hearProposal(),
  },
  acceptProposal: {
    label: say`Accept it, with the ends of the selection`,
    group: 'Finds',
    keys: ['a'],
    when: 'editing',
    run: acceptProposal,
  },
  acceptAllLike: {
    label: say`Accept all of its kind`,
    group: 'Finds',
    keys: ['shift+a'],
    when: 'editing',
    run: acceptAllLikeCurrent,
  },
  refuseProposal: {
    label: say`Refuse it`,
    group: 'Finds',
    keys: ['r'],
    when: 'editing',
    run: refuseProposal,
  },
} satisfies Record<string, Command>;
