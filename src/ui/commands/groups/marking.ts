import { say } from '@/texts/say';
import { addCue, openCueSheet, stepCue, stepToUndone, toggleChosenDone } from '@/state/cues/cues';
import { circleTakeOfCue, stepTakeOfCue } from '@/state/recording/cueTakes';
import { fitChosenTake } from '@/state/recording/fitting';
import { circleAtCaret } from '@/state/recording/takes';
import { currentLineFromCaret } from '@/state/script/lines';
import * as actions from '../actions';
import type { Command } from '../command';

/** Keys for marks and for cues. */
export const marking = {
  circleTake: {
    label: say`Circle the take at the caret`,
    group: 'Mark',
    keys: ['c'],
    when: 'always',
    run: circleAtCaret,
  },
  flub: {
    label: say`Flub mark`,
    group: 'Mark',
    keys: ['f'],
    when: 'always',
    run: () => actions.mark('flub'),
  },
  flubRange: {
    label: say`Flub from here; pressed again, to here`,
    group: 'Mark',
    keys: ['shift+f'],
    when: 'always',
    run: actions.markFlubRange,
  },
  lineFromCaret: {
    label: say`The current line is read from the caret on`,
    group: 'Mark',
    keys: ['v'],
    when: 'editing',
    run: currentLineFromCaret,
  },
  note: { label: say`Note`, group: 'Mark', keys: ['n'], when: 'always', run: () => actions.mark('note') },
  partMark: {
    label: say`Part mark; with “keep going”: on into the next part`,
    group: 'Mark',
    keys: ['p'],
    when: 'always',
    run: () => actions.mark('part'),
  },
  cueSheet: {
    label: say`Open the cue sheet`,
    menu: say`Cue sheet …`,
    group: 'Cues',
    keys: ['shift+q'],
    when: 'editing',
    run: openCueSheet,
  },
  cueNext: {
    label: say`Next cue`,
    group: 'Cues',
    keys: ['shift+arrowdown'],
    when: 'editing',
    run: () => stepCue(1),
  },
  cuePrevious: {
    label: say`Previous cue`,
    group: 'Cues',
    keys: ['shift+arrowup'],
    when: 'editing',
    run: () => stepCue(-1),
  },
  cueUndone: {
    label: say`Next cue that is still to do`,
    group: 'Cues',
    keys: ['shift+n'],
    when: 'editing',
    run: stepToUndone,
  },
  cueDone: {
    label: say`The cue is done, or not`,
    group: 'Cues',
    keys: ['shift+c'],
    when: 'editing',
    run: toggleChosenDone,
  },
  dryRun: {
    label: say`Dry run: the cue with its run-up, without recording; ends it`,
    menu: say`Dry run`,
    group: 'Cues',
    keys: ['/'],
    when: 'always',
    run: actions.toggleDryRun,
  },
  cueTakeBefore: {
    label: say`Hear the take before in the cue`,
    group: 'Cues',
    keys: ['('],
    when: 'editing',
    run: () => stepTakeOfCue(-1),
  },
  cueTakeAfter: {
    label: say`Hear the take after in the cue`,
    group: 'Cues',
    keys: [')'],
    when: 'editing',
    run: () => stepTakeOfCue(1),
  },
  cueFit: {
    label: say`Fit the take that is heard in the cue to its guide`,
    menu: say`Fit`,
    group: 'Cues',
    keys: ['0'],
    when: 'editing',
    run: () => void fitChosenTake(),
  },
  cueCircle: {
    label: say`Circle the take that is heard in the cue, or take its circle away`,
    group: 'Cues',
    keys: ['9'],
    when: 'editing',
    run: circleTakeOfCue,
  },
  cueHere: {
    label: say`Make a cue of the selection, or at the caret`,
    group: 'Cues',
    keys: ['shift+b'],
    when: 'editing',
    run: () => void addCue(),
  },
} satisfies Record<string, Command>;
