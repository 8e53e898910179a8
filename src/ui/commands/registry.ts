import { say } from '@/texts/say';
import {
  chooseChains,
  compareHearing,
  hearStepAlone,
  hearTaken,
  moveChosenStep,
  removeChosenStep,
  stepThrough,
  toggleChosenStep,
  toggleEqual,
} from '@/state/chain/chains';
import { undoLast } from '@/state/chain/sharing';
import { addCue, openCueSheet, stepCue, stepToUndone, toggleChosenDone } from '@/state/cues/cues';
import { openImport } from '@/state/files/importing';
import { layRecordingsInStep } from '@/state/files/layingInStep';
import { saveSelection } from '@/state/files/exporting';
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
import { showSession, useFar } from '@/state/far/far';
import { toggleTalk } from '@/state/far/sound';
import { toggleFilmWindow } from '@/state/hearing/filmWindow';
import { showKeeping } from '@/state/keep/keeping';
import { saveBackup, useReminding } from '@/state/keep/reminding';
import { nextHear } from '@/state/hearing/listening';
import { stopToEdit } from '@/state/hearing/playing';
import { duckChosen, softenChosen } from '@/state/mix/ducking';
import { liftPoint, removePointAtCaret, setPointAtCaret, stepPoint } from '@/state/mix/points';
import { further, levelStepDb, louder, muteChosen, soloChosen, stepStrip } from '@/state/mix/strips';
import { setView, useView, zoom } from '@/state/page/view';
import { circleTakeOfCue, stepTakeOfCue } from '@/state/recording/cueTakes';
import { fitChosenTake } from '@/state/recording/fitting';
import { retakeSentence } from '@/state/recording/readingOn';
import { openLastInput, recordTone, toggleSessionStart } from '@/state/recording/sessionStart';
import { openSoundCheck } from '@/state/recording/soundCheck';
import { cutBackToCaret } from '@/state/recording/tracks';
import { circleAtCaret } from '@/state/recording/takes';
import { currentLineFromCaret } from '@/state/script/lines';
import { nextThing, stepToFault, stepToJoin, stepToMark } from '@/state/script/nextThing';
import { stepLine } from '@/state/script/script';
import * as editing from '@/state/sheet/editing';
import { closeUpAll, closeUpSelection, redo, select, selectFromCaret, setCaret } from '@/state/sheet/part';
import { copyToNewPart, openMoveDialog, openPutDialog, splitAtPartMarks } from '@/state/sheet/partEdits';
import { stepToPause } from '@/state/sheet/pauseSteps';
import { selectBetweenMarks, selectPause, selectPiece, selectSentence } from '@/state/sheet/selecting';
import { stepToSentence } from '@/state/sheet/sentenceSteps';
import { stepFocus } from '@/state/sheet/staveFocus';
import { isEditable, useTransport } from '@/state/hearing/transport';
import * as actions from './actions';
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
  readonly run: () => void;
}

/** Every command there is, once: keys, menus, buttons and messages name them by their ids. */
const table = {
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
  saveBackup: {
    label: say`Save a project file; where there is one already, only what is new`,
    group: 'Look',
    keys: ['$'],
    when: 'editing',
    run: () => void saveBackup(useReminding.getState().hasFile),
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
  sessionCard: {
    label: say`What to look at before recording: show it, hide it`,
    group: 'Look',
    keys: ['!'],
    when: 'editing',
    run: toggleSessionStart,
  },
  layInStep: {
    label: say`Lay the recording of another track in step with the first`,
    menu: say`Lay in step`,
    group: 'Edit',
    keys: [],
    when: 'editing',
    run: () => void layRecordingsInStep(),
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
  cutBack: {
    label: say`Cut the reading back to the caret`,
    group: 'Edit',
    keys: ['shift+r'],
    when: 'editing',
    run: cutBackToCaret,
  },
  circleTake: {
    label: say`Circle the take at the caret`,
    group: 'Mark',
    keys: ['c'],
    when: 'always',
    run: circleAtCaret,
  },
  previousPause: {
    label: say`Previous pause`,
    group: 'Move',
    keys: ['arrowleft'],
    when: 'editing',
    repeats: true,
    run: () => void stepToPause(-1),
  },
  nextPause: {
    label: say`Next pause`,
    group: 'Move',
    keys: ['arrowright'],
    when: 'editing',
    repeats: true,
    run: () => void stepToPause(1),
  },
  sentenceStart: {
    label: say`Start of the sentence`,
    group: 'Move',
    keys: ['shift+arrowleft'],
    when: 'editing',
    repeats: true,
    run: () => void stepToSentence(-1),
  },
  nextSentence: {
    label: say`Start of the next sentence`,
    group: 'Move',
    keys: ['shift+arrowright'],
    when: 'editing',
    repeats: true,
    run: () => void stepToSentence(1),
  },
  rowUp: {
    label: say`Row up`,
    group: 'Move',
    keys: ['arrowup'],
    when: 'editing',
    repeats: true,
    run: () => actions.stepRow(-1),
  },
  rowDown: {
    label: say`Row down`,
    group: 'Move',
    keys: ['arrowdown'],
    when: 'editing',
    repeats: true,
    run: () => actions.stepRow(1),
  },
  previousMark: {
    label: say`Previous mark`,
    group: 'Move',
    keys: ['shift+m'],
    when: 'editing',
    repeats: true,
    run: () => stepToMark(-1),
  },
  nextMark: {
    label: say`Next mark`,
    group: 'Move',
    keys: ['m'],
    when: 'editing',
    repeats: true,
    run: () => stepToMark(1),
  },
  previousJoin: {
    label: say`Previous join`,
    group: 'Move',
    keys: ['mod+arrowleft'],
    when: 'editing',
    repeats: true,
    run: () => stepToJoin(-1),
  },
  nextJoin: {
    label: say`Next join`,
    group: 'Move',
    keys: ['mod+arrowright'],
    when: 'editing',
    repeats: true,
    run: () => stepToJoin(1),
  },
  previousFault: {
    label: say`Previous fault`,
    group: 'Move',
    keys: ['shift+y'],
    when: 'editing',
    repeats: true,
    run: () => stepToFault(-1),
  },
  nextFault: {
    label: say`Next fault`,
    group: 'Move',
    keys: ['y'],
    when: 'editing',
    repeats: true,
    run: () => stepToFault(1),
  },
  nextThing: {
    label: say`Next thing to do`,
    group: 'Move',
    keys: ['w'],
    when: 'editing',
    repeats: true,
    run: nextThing,
  },
  start: {
    label: say`Start of the part`,
    group: 'Move',
    keys: ['home'],
    when: 'editing',
    repeats: true,
    run: () => setCaret(0),
  },
  end: {
    label: say`End of the part`,
    group: 'Move',
    keys: ['end'],
    when: 'editing',
    repeats: true,
    run: () => setCaret(actions.sheetEnd()),
  },
  nextLine: {
    label: say`Next line of the script`,
    group: 'Move',
    keys: ['l', 'pagedown'],
    when: 'always',
    repeats: true,
    run: () => stepLine(1),
  },
  previousLine: {
    label: say`Previous line of the script`,
    group: 'Move',
    keys: ['shift+l', 'pageup'],
    when: 'always',
    repeats: true,
    run: () => stepLine(-1),
  },
  selectSentence: {
    label: say`Select the sentence`,
    group: 'Select',
    keys: ['e'],
    when: 'editing',
    run: () => void selectSentence(),
  },
  selectPause: {
    label: say`Select the pause`,
    group: 'Select',
    keys: ['shift+e'],
    when: 'editing',
    run: () => void selectPause(),
  },
  selectPiece: {
    label: say`Select the piece`,
    group: 'Select',
    keys: ['d'],
    when: 'editing',
    run: selectPiece,
  },
  selectBetweenMarks: {
    label: say`Select between marks`,
    group: 'Select',
    keys: ['shift+d'],
    when: 'editing',
    run: selectBetweenMarks,
  },
  selectionStart: {
    label: say`Selection starts at the caret`,
    group: 'Select',
    keys: ['['],
    when: 'editing',
    run: () => selectFromCaret('start'),
  },
  selectionEnd: {
    label: say`Selection ends at the caret`,
    group: 'Select',
    keys: [']'],
    when: 'editing',
    run: () => selectFromCaret('end'),
  },
  selectAll: {
    label: say`Select all`,
    group: 'Select',
    keys: ['mod+a'],
    when: 'editing',
    run: () => select(0, actions.sheetEnd()),
  },
  strike: {
    label: say`Strike the selection`,
    menu: say`Strike`,
    group: 'Edit',
    keys: ['backspace', 'delete'],
    when: 'editing',
    run: editing.strikeSelection,
  },
  stet: {
    label: say`Stet: let it stand again`,
    menu: say`Stet`,
    group: 'Edit',
    keys: ['shift+backspace', 'shift+delete'],
    when: 'editing',
    run: editing.stetSelection,
  },
  closeUp: {
    label: say`Close up struck passages`,
    menu: say`Close up`,
    group: 'Edit',
    keys: ['mod+j'],
    when: 'editing',
    run: closeUpSelection,
  },
  closeUpAll: {
    label: say`Close up all of the part`,
    menu: say`Close up all`,
    group: 'Edit',
    keys: ['shift+mod+j'],
    when: 'editing',
    run: closeUpAll,
  },
  strikeFlubs: {
    label: say`Strike every flub that is marked as a range`,
    menu: say`Strike all flub ranges`,
    group: 'Edit',
    keys: ['shift+mod+backspace'],
    when: 'editing',
    run: editing.strikeFlubs,
  },
  cut: { label: say`Cut`, group: 'Edit', keys: ['mod+x'], when: 'editing', run: editing.cutSelection },
  copy: { label: say`Copy`, group: 'Edit', keys: ['mod+c'], when: 'editing', run: editing.copySelection },
  paste: { label: say`Paste`, group: 'Edit', keys: ['mod+v'], when: 'editing', run: editing.pasteAtCaret },
  pasteOver: {
    label: say`Paste over, level matched`,
    menu: say`Paste over, level matched`,
    group: 'Edit',
    keys: ['shift+mod+v'],
    when: 'editing',
    run: () => void editing.pasteOverAtCaret(),
  },
  split: {
    label: say`Split at the caret`,
    menu: say`Split at the caret`,
    group: 'Edit',
    keys: ['s'],
    when: 'editing',
    run: editing.splitAtCaret,
  },
  trimStart: {
    label: say`Trim the piece up to the caret`,
    group: 'Edit',
    keys: ['{'],
    when: 'editing',
    run: () => editing.trimAtCaret('start'),
  },
  trimEnd: {
    label: say`Trim the piece from the caret on`,
    group: 'Edit',
    keys: ['}'],
    when: 'editing',
    run: () => editing.trimAtCaret('end'),
  },
  earlier10: {
    label: say`Earlier by 10 ms`,
    group: 'Edit',
    keys: [';'],
    when: 'editing',
    run: () => editing.nudge(-10),
  },
  later10: {
    label: say`Later by 10 ms`,
    group: 'Edit',
    keys: ["'"],
    when: 'editing',
    run: () => editing.nudge(10),
  },
  earlier100: {
    label: say`Earlier by 100 ms`,
    group: 'Edit',
    keys: [':'],
    when: 'editing',
    run: () => editing.nudge(-100),
  },
  later100: {
    label: say`Later by 100 ms`,
    group: 'Edit',
    keys: ['"'],
    when: 'editing',
    run: () => editing.nudge(100),
  },
  earlier1: {
    label: say`Earlier by 1 ms`,
    group: 'Edit',
    keys: ['mod+;'],
    when: 'editing',
    run: () => editing.nudge(-1),
  },
  later1: {
    label: say`Later by 1 ms`,
    group: 'Edit',
    keys: ["mod+'"],
    when: 'editing',
    run: () => editing.nudge(1),
  },
  louder: {
    label: say`1 dB louder`,
    group: 'Edit',
    keys: ['='],
    when: 'editing',
    run: () => editing.changeGain(1),
  },
  softer: {
    label: say`1 dB softer`,
    group: 'Edit',
    keys: ['-'],
    when: 'editing',
    run: () => editing.changeGain(-1),
  },
  matchLevel: {
    label: say`As loud as its neighbours`,
    group: 'Edit',
    keys: ['mod+g'],
    when: 'editing',
    run: () => void editing.matchGain(),
  },
  fadeIn: {
    label: say`Fade in over the selection`,
    group: 'Edit',
    keys: ['i'],
    when: 'editing',
    run: () => editing.fadeSelection('fadeIn'),
  },
  fadeOut: {
    label: say`Fade out over the selection`,
    group: 'Edit',
    keys: ['u'],
    when: 'editing',
    run: () => editing.fadeSelection('fadeOut'),
  },
  setJoin: {
    label: say`Set the join at the caret`,
    group: 'Edit',
    keys: ['shift+j'],
    when: 'editing',
    run: editing.setJoinAtCaret,
  },
  oneStave: {
    label: say`Edit one stave, or all`,
    group: 'Edit',
    keys: ['shift+s'],
    when: 'always',
    run: stepFocus,
  },
  patchTone: {
    label: say`Patch tone over the selection`,
    group: 'Room and pauses',
    keys: ['t'],
    when: 'editing',
    run: () => void patchTone(),
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
    run: () => void editing.setPause(),
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
  import: {
    label: say`Import sound files`,
    group: 'Edit',
    keys: ['shift+i'],
    when: 'editing',
    run: openImport,
  },
  stripNext: {
    label: say`Next voice or bed`,
    group: 'Mix',
    keys: ['x'],
    when: 'mixing',
    run: () => stepStrip(1),
  },
  stripPrevious: {
    label: say`Previous voice or bed`,
    group: 'Mix',
    keys: ['shift+x'],
    when: 'mixing',
    run: () => stepStrip(-1),
  },
  stripLouder: {
    label: say`The voice or bed 0.5 dB louder`,
    group: 'Mix',
    keys: ['='],
    when: 'mixing',
    repeats: true,
    run: () => louder(levelStepDb),
  },
  stripSofter: {
    label: say`The voice or bed 0.5 dB softer`,
    group: 'Mix',
    keys: ['-'],
    when: 'mixing',
    repeats: true,
    run: () => louder(-levelStepDb),
  },
  placeLeft: {
    label: say`Further to the left`,
    group: 'Mix',
    keys: [';'],
    when: 'mixing',
    repeats: true,
    run: () => further(-1),
  },
  placeRight: {
    label: say`Further to the right`,
    group: 'Mix',
    keys: ["'"],
    when: 'mixing',
    repeats: true,
    run: () => further(1),
  },
  mute: {
    label: say`Mute it while listening`,
    group: 'Mix',
    keys: ['k'],
    when: 'mixing',
    run: () => muteChosen(),
  },
  solo: {
    label: say`Hear it alone`,
    group: 'Mix',
    keys: ['s'],
    when: 'mixing',
    run: () => soloChosen(),
  },
  levelPoint: {
    label: say`Set a level point at the caret`,
    group: 'Mix',
    keys: ['p'],
    when: 'mixing',
    run: setPointAtCaret,
  },
  removePoint: {
    label: say`Take the nearest level point away`,
    group: 'Mix',
    keys: ['backspace', 'delete'],
    when: 'mixing',
    run: removePointAtCaret,
  },
  pointLouder: {
    label: say`The nearest level point 1 dB up`,
    group: 'Mix',
    keys: ['}'],
    when: 'mixing',
    repeats: true,
    run: () => liftPoint(1),
  },
  pointSofter: {
    label: say`The nearest level point 1 dB down`,
    group: 'Mix',
    keys: ['{'],
    when: 'mixing',
    repeats: true,
    run: () => liftPoint(-1),
  },
  pointNext: {
    label: say`Next level point`,
    group: 'Mix',
    keys: ['.'],
    when: 'mixing',
    run: () => stepPoint(1),
  },
  pointPrevious: {
    label: say`Previous level point`,
    group: 'Mix',
    keys: [','],
    when: 'mixing',
    run: () => stepPoint(-1),
  },
  duck: {
    label: say`Let the bed go down under speech`,
    group: 'Mix',
    keys: ['u'],
    when: 'mixing',
    run: () => void duckChosen(),
  },
  soften: {
    label: say`Make the chosen microphone softer while only others speak`,
    group: 'Mix',
    keys: ['shift+u'],
    when: 'mixing',
    run: () => void softenChosen(),
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
  film: {
    label: say`The picture, shown or hidden`,
    group: 'Look',
    keys: ['*'],
    when: 'always',
    run: () => setView({ film: !useView.getState().film }),
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
  filmWindow: {
    label: say`The picture in a window of its own, for a second screen`,
    group: 'Look',
    keys: ['#'],
    when: 'always',
    run: toggleFilmWindow,
  },
  cueHere: {
    label: say`Make a cue of the selection, or at the caret`,
    group: 'Cues',
    keys: ['shift+b'],
    when: 'editing',
    run: () => void addCue(),
  },
  chainCompare: {
    label: say`Hear the voice as it was recorded, and finished again`,
    group: 'Chain',
    keys: ['a'],
    when: 'mixing',
    run: compareHearing,
  },
  chainTaken: {
    label: say`Hear what its chain takes away, and finished again`,
    group: 'Chain',
    keys: ['shift+a'],
    when: 'mixing',
    run: hearTaken,
  },
  chainEqual: {
    label: say`Compare equally loud, or as they are`,
    group: 'Chain',
    keys: ['|'],
    when: 'mixing',
    run: toggleEqual,
  },
  chainNext: {
    label: say`Next step of the chain`,
    group: 'Chain',
    keys: ['g'],
    when: 'mixing',
    run: () => stepThrough(1),
  },
  chainPrevious: {
    label: say`Previous step of the chain`,
    group: 'Chain',
    keys: ['shift+g'],
    when: 'mixing',
    run: () => stepThrough(-1),
  },
  chainToggle: {
    label: say`The step on or off`,
    group: 'Chain',
    keys: ['o'],
    when: 'mixing',
    run: toggleChosenStep,
  },
  chainAlone: {
    label: say`Hear the step alone, and all of them again`,
    group: 'Chain',
    keys: ['shift+s'],
    when: 'mixing',
    run: () => hearStepAlone(),
  },
  chainEarlier: {
    label: say`The step one place earlier`,
    group: 'Chain',
    keys: ['<'],
    when: 'mixing',
    run: () => moveChosenStep(-1),
  },
  chainLater: {
    label: say`The step one place later`,
    group: 'Chain',
    keys: ['>'],
    when: 'mixing',
    run: () => moveChosenStep(1),
  },
  chainRemove: {
    label: say`Take the step away`,
    group: 'Chain',
    keys: ['shift+delete', 'shift+backspace'],
    when: 'mixing',
    run: removeChosenStep,
  },
  chainChoose: {
    label: say`Saved chains`,
    group: 'Chain',
    keys: ['h'],
    when: 'mixing',
    run: () => chooseChains(),
  },
  undo: { label: say`Undo`, group: 'Edit', keys: ['mod+z'], when: 'editing', run: () => void undoLast() },
  redo: {
    label: say`Redo`,
    group: 'Edit',
    keys: ['shift+mod+z', 'mod+y'],
    when: 'editing',
    run: () => void redo(),
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
  fewerSeconds: {
    label: say`Fewer seconds on a row`,
    group: 'Look',
    keys: ['mod+=', 'mod+plus'],
    when: 'always',
    run: () => zoom(-1),
  },
  moreSeconds: {
    label: say`More seconds on a row`,
    group: 'Look',
    keys: ['mod+-'],
    when: 'always',
    run: () => zoom(1),
  },
  loupe: {
    label: say`Loupe`,
    group: 'Look',
    keys: ['z'],
    when: 'always',
    run: () => setView({ loupe: !useView.getState().loupe }),
  },
  spectrum: {
    label: say`Wave or spectrum`,
    group: 'Look',
    keys: ['q'],
    when: 'always',
    run: () => setView({ picture: useView.getState().picture === 'wave' ? 'spectrum' : 'wave' }),
  },
  prompter: {
    label: say`The script, large and dark`,
    group: 'Look',
    keys: ['b'],
    when: 'always',
    run: () => setView({ prompter: true }),
  },
  largerScript: {
    label: say`Larger script`,
    group: 'Look',
    keys: ['shift+mod+='],
    when: 'always',
    run: () => actions.stepPrompter(1),
  },
  smallerScript: {
    label: say`Smaller script`,
    group: 'Look',
    keys: ['shift+mod+-'],
    when: 'always',
    run: () => actions.stepPrompter(-1),
  },
  allKeys: {
    label: say`All keys`,
    group: 'Look',
    keys: ['?'],
    when: 'always',
    run: () => useView.setState({ keysShown: true }),
  },
  whereKept: {
    label: say`Where the project is kept: room, copy, project files`,
    menu: say`Where it is kept …`,
    group: 'Look',
    keys: ['8'],
    when: 'always',
    run: () => showKeeping(true),
  },
  clearJoin: {
    label: say`Take the split or join at the caret back`,
    group: 'Edit',
    keys: [],
    when: 'editing',
    run: editing.clearJoinAtCaret,
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
  copyToPart: {
    label: say`Copy the selection to a new part`,
    menu: say`Copy to a new part`,
    group: 'Edit',
    keys: [],
    when: 'editing',
    run: () => void copyToNewPart(),
  },
  moveToPart: {
    label: say`Move the selection to another part`,
    menu: say`Move to another part …`,
    group: 'Edit',
    keys: ['shift+p'],
    when: 'editing',
    run: openMoveDialog,
  },
  putPartIn: {
    label: say`Put another part in at the caret`,
    menu: say`Put another part in …`,
    group: 'Edit',
    keys: [],
    when: 'editing',
    run: openPutDialog,
  },
  splitIntoParts: {
    label: say`Split into parts at part marks`,
    menu: say`Split into parts at ¶`,
    group: 'Edit',
    keys: [],
    when: 'editing',
    run: () => void splitAtPartMarks(),
  },
  saveSelection: {
    label: say`Save the selection to a file`,
    menu: say`Save to a file (WAV, 32-bit float)`,
    group: 'Edit',
    keys: [],
    when: 'editing',
    run: () => void saveSelection(),
  },
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

/** Does what a command says, if it is one for this situation; false where it is not. */
export function run(id: CommandId): boolean {
  const { when, run: act } = commands[id];
  if (!begins[when]()) return false;
  act();
  return true;
}

/** Commands of all screens that are meant in the Finish screen too, where nothing is recorded or cut. */
const alsoMixing: ReadonlySet<CommandId> = new Set<CommandId>([
  ...commandIds.filter((id) => [say`Move`, say`Select`].includes(commands[id].group)),
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
