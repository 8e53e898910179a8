import { say } from '@/texts/say';
import { showSession, useFar } from '@/state/far/far';
import { toggleTalk } from '@/state/far/sound';
import { nextHear } from '@/state/hearing/listening';
import { setView, useView } from '@/state/page/view';
import { retakeSentence } from '@/state/recording/readingOn';
import { openLastInput, recordTone } from '@/state/recording/sessionStart';
import { openSoundCheck } from '@/state/recording/soundCheck';
import * as actions from '../actions';
import type { Command } from '../command';

/** Keys to record and to play with. */
export const recordAndPlay = {
  play: {
    label: say`Play from the caret, stop here`,
    group: 'Record and play',
    keys: ['space'],
    when: 'always',
    run: actions.togglePlay,
  },
  record: {
    label: say`Record as the button says, stop`,
    group: 'Record and play',
    keys: ['enter'],
    when: 'always',
    run: actions.toggleRecord,
  },
  retakeSentence: {
    label: say`While recording: again from the start of the sentence`,
    group: 'Record and play',
    keys: ['backspace'],
    when: 'recording',
    run: () => void retakeSentence(),
  },
  stop: {
    label: say`Stop playing and go back to where it began; call a run-up off`,
    group: 'Record and play',
    keys: ['escape'],
    when: 'always',
    run: actions.escape,
  },
  playSelection: {
    label: say`Play the selection`,
    group: 'Record and play',
    keys: ['shift+space'],
    when: 'always',
    run: actions.playSelection,
  },
  playJoin: {
    label: say`Play across the nearest join`,
    group: 'Record and play',
    keys: ['j'],
    when: 'always',
    run: actions.playJoin,
  },
  loop: {
    label: say`Again and again, on or off`,
    group: 'Record and play',
    keys: ['shift+o'],
    when: 'always',
    run: () => setView({ loop: !useView.getState().loop }),
  },
  slower: {
    label: say`Slower`,
    group: 'Record and play',
    keys: [','],
    when: 'always',
    run: () => actions.stepSpeed(-1),
  },
  faster: {
    label: say`Faster`,
    group: 'Record and play',
    keys: ['.'],
    when: 'always',
    run: () => actions.stepSpeed(1),
  },
  modeContinue: {
    label: say`Continue: at the end`,
    group: 'Record and play',
    keys: ['1'],
    when: 'editing',
    run: () => actions.setMode('continue'),
  },
  modeRetake: {
    label: say`Retake: from the caret on`,
    group: 'Record and play',
    keys: ['2'],
    when: 'editing',
    run: () => actions.setMode('retake'),
  },
  modeInsert: {
    label: say`Insert: into a gap at the caret`,
    group: 'Record and play',
    keys: ['3'],
    when: 'editing',
    run: () => actions.setMode('insert'),
  },
  modePatch: {
    label: say`Patch: over the selection`,
    group: 'Record and play',
    keys: ['4'],
    when: 'editing',
    run: () => actions.setMode('patch'),
  },
  modeCue: {
    label: say`Cue: the one that is chosen, in its place`,
    group: 'Record and play',
    keys: ['5'],
    when: 'editing',
    run: () => actions.setMode('cue'),
  },
  soundCheck: {
    label: say`Sound check`,
    group: 'Record and play',
    keys: ['k'],
    when: 'always',
    run: () => void openSoundCheck(),
  },
  recordTone: {
    label: say`Record ten seconds of room tone; again: call it off`,
    group: 'Record and play',
    keys: ['shift+k'],
    when: 'editing',
    run: () => void recordTone(),
  },
  lastInput: {
    label: say`Open the input of the last session`,
    group: 'Record and play',
    keys: ['shift+v'],
    when: 'editing',
    run: openLastInput,
  },
  hear: {
    label: say`Hear the guide and the own voices, the own alone, the guide alone`,
    group: 'Record and play',
    keys: ['shift+h'],
    when: 'always',
    run: nextHear,
  },
  hearOthers: {
    label: say`Hear the other tracks while recording, or not`,
    group: 'Record and play',
    keys: ['shift+w'],
    when: 'editing',
    run: actions.toggleHearOthers,
  },
  farSession: {
    label: say`Talents far away: the link, who has come, how the line is`,
    group: 'Record and play',
    keys: ['6'],
    when: 'always',
    run: () => showSession(!useFar.getState().shown),
  },
  talk: {
    label: say`Talk to the talents far away, or stop talking`,
    group: 'Record and play',
    keys: ['7'],
    when: 'always',
    run: toggleTalk,
  },
} satisfies Record<string, Command>;
