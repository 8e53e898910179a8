import { sheetFramesOf } from '@/core/timeline/timeline';
import * as editing from '@/state/sheet/editing';
import { findAll } from '@/state/finds/finding';
import {
  acceptAllLikeCurrent,
  acceptProposal,
  hearProposal,
  refuseProposal,
  stepToProposal,
} from '@/state/finds/proposals';
import { currentLineFromCaret } from '@/state/script/lines';
import { nextThing, stepToFault, stepToJoin, stepToMark } from '@/state/script/nextThing';
import {
  addMark,
  closeUpAll,
  closeUpSelection,
  endMark,
  partClock,
  redo,
  select,
  selectFromCaret,
  setCaret,
  undo,
  usePart,
} from '@/state/sheet/part';
import { notify } from '@/state/page/notices';
import { stepToPause } from '@/state/sheet/pauseSteps';
import { openImport } from '@/state/files/importing';
import { stepLine } from '@/state/script/script';
import { rateOfProject, type RecordMode } from '@/state/project/openProject';
import { play, playRange, stopPlaying } from '@/state/hearing/playing';
import { hearTone, patchTone } from '@/state/finds/roomTone';
import { selectBetweenMarks, selectPause, selectPiece, selectSentence } from '@/state/sheet/selecting';
import { stepFocus } from '@/state/sheet/staveFocus';
import { recordSettings, setRecordSettings } from '@/state/project/settings';
import { record, stopRecording } from '@/state/recording/recording';
import { retakeSentence, startNextPart } from '@/state/recording/readingOn';
import { stepToSentence } from '@/state/sheet/sentenceSteps';
import { openSoundCheck } from '@/state/recording/soundCheck';
import { circleAtCaret } from '@/state/recording/takes';
import { headFrame, useTransport } from '@/state/hearing/transport';
import { prompterSizeChoices, setView, speedChoices, stepOf, useView, zoom } from '@/state/page/view';

export interface Command {
  label: string;
  group: 'Record and play' | 'Move' | 'Select' | 'Edit' | 'Room and pauses' | 'Finds' | 'Mark' | 'Look';
  /** One key can have several commands, each for its own situation. `Mod` is Ctrl, or Cmd on a Mac; the last word is a KeyboardEvent.key in lower case. */
  keys: string[];
  run: () => void;
}

const idle = () => useTransport.getState().mode === 'idle';
const whenIdle = (run: () => void) => () => {
  if (idle()) run();
};

export function togglePlay(): void {
  const { mode } = useTransport.getState();
  if (mode === 'playing') stopPlaying();
  else if (mode === 'recording' || mode === 'rolling') void stopRecording();
  else void play();
}

/** Starts as the button says; ends a take, or calls its run-up off. */
export function toggleRecord(): void {
  const { mode } = useTransport.getState();
  if (mode === 'recording' || mode === 'rolling') void stopRecording();
  else void record();
}

function escape() {
  if (useView.getState().prompter) return setView({ prompter: false });
  if (useTransport.getState().mode === 'rolling') void stopRecording();
  else stopPlaying(true);
}

export const setMode = (mode: RecordMode) => whenIdle(() => setRecordSettings({ mode }))();

/** Marks where the head is, or at the caret; a flub with the caret in the selection marks all of the selection. */
export function mark(kind: 'flub' | 'note' | 'part'): void {
  const { caret, selection } = usePart.getState();
  const { live, mode } = useTransport.getState();
  const head = headFrame();
  if (mode === 'recording' && live && head !== null) {
    live.markIds.add(addMark(kind, head));
    if (kind === 'part' && recordSettings().keepGoing) void startNextPart();
    return;
  }
  const inside = selection !== null && caret >= selection.from && caret <= selection.to;
  if (head !== null) addMark(kind, head);
  else if (kind === 'flub' && selection && inside)
    addMark(kind, selection.from, selection.to - selection.from);
  else addMark(kind, caret);
}

/** A flub as a range: begun at the mistake, ended at the pickup. */
function markFlubRange(): void {
  const { caret } = usePart.getState();
  const at = headFrame() ?? caret;
  if (endMark('flub', at)) return;
  const id = addMark('flub', at, 0, true);
  useTransport.getState().live?.markIds.add(id);
}

/** Shows the finds, and looks for more. */
function lookThroughPart() {
  setView({ panel: 'finds' });
  void findAll();
}

/** Plays the selection; without one, across the nearest join. */
function playSelection() {
  const { selection } = usePart.getState();
  if (selection) void playRange(selection);
  else playJoin();
}

const joinSeconds = 1.5;

/** Across the join nearest the caret, from 1.5 s before it to 1.5 s after it. */
function playJoin() {
  const cut = editing.nearestCut();
  if (!cut) return notify('info', 'There is no join in this part yet.');
  const clock = partClock();
  const reach = joinSeconds * rateOfProject();
  const at = clock.sheetToHeard(cut.to);
  void playRange({
    from: clock.heardToSheet(Math.max(0, at - reach)),
    to: clock.heardToSheet(Math.min(clock.heardFrames, at + reach)),
  });
}

const stepSpeed = (step: -1 | 1) => setView({ speed: stepOf(speedChoices, useView.getState().speed, step) });
const stepPrompter = (step: -1 | 1) =>
  setView({ prompterSize: stepOf(prompterSizeChoices, useView.getState().prompterSize, step) });

/** The same place one row up or down; the selection is left alone. */
function stepRow(direction: -1 | 1) {
  const framesPerRow = useView.getState().secondsPerRow * rateOfProject();
  setCaret(usePart.getState().caret + direction * framesPerRow);
}

const sheetEnd = () => sheetFramesOf(usePart.getState().timeline);

export const commands: readonly Command[] = [
  { label: 'Play from the caret, stop here', group: 'Record and play', keys: ['space'], run: togglePlay },
  {
    label: 'Record as the button says, stop',
    group: 'Record and play',
    keys: ['enter'],
    run: toggleRecord,
  },
  {
    label: 'While recording: again from the start of the sentence',
    group: 'Record and play',
    keys: ['backspace'],
    run: () => void retakeSentence(),
  },
  {
    label: 'Stop playing and go back to where it began; call a run-up off',
    group: 'Record and play',
    keys: ['escape'],
    run: escape,
  },
  { label: 'Play the selection', group: 'Record and play', keys: ['shift+space'], run: playSelection },
  { label: 'Play across the nearest join', group: 'Record and play', keys: ['j'], run: playJoin },
  {
    label: 'Again and again, on or off',
    group: 'Record and play',
    keys: ['shift+o'],
    run: () => setView({ loop: !useView.getState().loop }),
  },
  { label: 'Slower', group: 'Record and play', keys: [','], run: () => stepSpeed(-1) },
  { label: 'Faster', group: 'Record and play', keys: ['.'], run: () => stepSpeed(1) },
  { label: 'Continue: at the end', group: 'Record and play', keys: ['1'], run: () => setMode('continue') },
  { label: 'Retake: from the caret on', group: 'Record and play', keys: ['2'], run: () => setMode('retake') },
  {
    label: 'Insert: into a gap at the caret',
    group: 'Record and play',
    keys: ['3'],
    run: () => setMode('insert'),
  },
  { label: 'Patch: over the selection', group: 'Record and play', keys: ['4'], run: () => setMode('patch') },
  { label: 'Sound check', group: 'Record and play', keys: ['k'], run: () => void openSoundCheck() },
  { label: 'Circle the take at the caret', group: 'Mark', keys: ['c'], run: circleAtCaret },
  { label: 'Previous pause', group: 'Move', keys: ['arrowleft'], run: whenIdle(() => void stepToPause(-1)) },
  { label: 'Next pause', group: 'Move', keys: ['arrowright'], run: whenIdle(() => void stepToPause(1)) },
  {
    label: 'Start of the sentence',
    group: 'Move',
    keys: ['shift+arrowleft'],
    run: whenIdle(() => void stepToSentence(-1)),
  },
  {
    label: 'Start of the next sentence',
    group: 'Move',
    keys: ['shift+arrowright'],
    run: whenIdle(() => void stepToSentence(1)),
  },
  { label: 'Row up', group: 'Move', keys: ['arrowup'], run: whenIdle(() => stepRow(-1)) },
  { label: 'Row down', group: 'Move', keys: ['arrowdown'], run: whenIdle(() => stepRow(1)) },
  { label: 'Previous mark', group: 'Move', keys: ['shift+m'], run: whenIdle(() => stepToMark(-1)) },
  { label: 'Next mark', group: 'Move', keys: ['m'], run: whenIdle(() => stepToMark(1)) },
  { label: 'Previous join', group: 'Move', keys: ['mod+arrowleft'], run: whenIdle(() => stepToJoin(-1)) },
  { label: 'Next join', group: 'Move', keys: ['mod+arrowright'], run: whenIdle(() => stepToJoin(1)) },
  { label: 'Previous fault', group: 'Move', keys: ['shift+y'], run: whenIdle(() => stepToFault(-1)) },
  { label: 'Next fault', group: 'Move', keys: ['y'], run: whenIdle(() => stepToFault(1)) },
  { label: 'Next thing to do', group: 'Move', keys: ['w'], run: whenIdle(nextThing) },
  { label: 'Start of the part', group: 'Move', keys: ['home'], run: whenIdle(() => setCaret(0)) },
  { label: 'End of the part', group: 'Move', keys: ['end'], run: whenIdle(() => setCaret(sheetEnd())) },
  { label: 'Next line of the script', group: 'Move', keys: ['l', 'pagedown'], run: () => stepLine(1) },
  {
    label: 'Previous line of the script',
    group: 'Move',
    keys: ['shift+l', 'pageup'],
    run: () => stepLine(-1),
  },
  { label: 'Select the sentence', group: 'Select', keys: ['e'], run: whenIdle(() => void selectSentence()) },
  { label: 'Select the pause', group: 'Select', keys: ['shift+e'], run: whenIdle(() => void selectPause()) },
  { label: 'Select the piece', group: 'Select', keys: ['d'], run: whenIdle(selectPiece) },
  { label: 'Select between marks', group: 'Select', keys: ['shift+d'], run: whenIdle(selectBetweenMarks) },
  {
    label: 'Selection starts at the caret',
    group: 'Select',
    keys: ['['],
    run: whenIdle(() => selectFromCaret('start')),
  },
  {
    label: 'Selection ends at the caret',
    group: 'Select',
    keys: [']'],
    run: whenIdle(() => selectFromCaret('end')),
  },
  { label: 'Select all', group: 'Select', keys: ['mod+a'], run: whenIdle(() => select(0, sheetEnd())) },
  {
    label: 'Strike the selection',
    group: 'Edit',
    keys: ['backspace', 'delete'],
    run: whenIdle(editing.strikeSelection),
  },
  {
    label: 'Stet: let it stand again',
    group: 'Edit',
    keys: ['shift+backspace', 'shift+delete'],
    run: whenIdle(editing.stetSelection),
  },
  { label: 'Close up struck passages', group: 'Edit', keys: ['mod+j'], run: whenIdle(closeUpSelection) },
  {
    label: 'Close up all of the part',
    group: 'Edit',
    keys: ['shift+mod+j'],
    run: whenIdle(closeUpAll),
  },
  {
    label: 'Strike every flub that is marked as a range',
    group: 'Edit',
    keys: ['shift+mod+backspace'],
    run: whenIdle(editing.strikeFlubs),
  },
  { label: 'Cut', group: 'Edit', keys: ['mod+x'], run: whenIdle(editing.cutSelection) },
  { label: 'Copy', group: 'Edit', keys: ['mod+c'], run: whenIdle(editing.copySelection) },
  { label: 'Paste', group: 'Edit', keys: ['mod+v'], run: whenIdle(editing.pasteAtCaret) },
  {
    label: 'Paste over, level matched',
    group: 'Edit',
    keys: ['shift+mod+v'],
    run: whenIdle(() => void editing.pasteOverAtCaret()),
  },
  { label: 'Split at the caret', group: 'Edit', keys: ['s'], run: whenIdle(editing.splitAtCaret) },
  {
    label: 'Trim the piece up to the caret',
    group: 'Edit',
    keys: ['{'],
    run: whenIdle(() => editing.trimAtCaret('start')),
  },
  {
    label: 'Trim the piece from the caret on',
    group: 'Edit',
    keys: ['}'],
    run: whenIdle(() => editing.trimAtCaret('end')),
  },
  { label: 'Earlier by 10 ms', group: 'Edit', keys: [';'], run: whenIdle(() => editing.nudge(-10)) },
  { label: 'Later by 10 ms', group: 'Edit', keys: ["'"], run: whenIdle(() => editing.nudge(10)) },
  { label: 'Earlier by 100 ms', group: 'Edit', keys: [':'], run: whenIdle(() => editing.nudge(-100)) },
  { label: 'Later by 100 ms', group: 'Edit', keys: ['"'], run: whenIdle(() => editing.nudge(100)) },
  { label: 'Earlier by 1 ms', group: 'Edit', keys: ['mod+;'], run: whenIdle(() => editing.nudge(-1)) },
  { label: 'Later by 1 ms', group: 'Edit', keys: ["mod+'"], run: whenIdle(() => editing.nudge(1)) },
  { label: '1 dB louder', group: 'Edit', keys: ['='], run: whenIdle(() => editing.changeGain(1)) },
  { label: '1 dB softer', group: 'Edit', keys: ['-'], run: whenIdle(() => editing.changeGain(-1)) },
  {
    label: 'As loud as its neighbours',
    group: 'Edit',
    keys: ['mod+g'],
    run: whenIdle(() => void editing.matchGain()),
  },
  {
    label: 'Fade in over the selection',
    group: 'Edit',
    keys: ['i'],
    run: whenIdle(() => editing.fadeSelection('fadeIn')),
  },
  {
    label: 'Fade out over the selection',
    group: 'Edit',
    keys: ['u'],
    run: whenIdle(() => editing.fadeSelection('fadeOut')),
  },
  {
    label: 'Set the join at the caret',
    group: 'Edit',
    keys: ['shift+j'],
    run: whenIdle(editing.setJoinAtCaret),
  },
  { label: 'Edit one stave, or all', group: 'Edit', keys: ['shift+s'], run: stepFocus },
  {
    label: 'Patch tone over the selection',
    group: 'Room and pauses',
    keys: ['t'],
    run: whenIdle(() => void patchTone()),
  },
  { label: 'Hear the room tone', group: 'Room and pauses', keys: ['shift+t'], run: () => void hearTone() },
  {
    label: 'Silence over the selection',
    group: 'Room and pauses',
    keys: ['shift+x'],
    run: whenIdle(editing.silenceSelection),
  },
  {
    label: 'Set the length of the pause',
    group: 'Room and pauses',
    keys: ['o'],
    run: whenIdle(() => void editing.setPause()),
  },
  { label: 'Look through the part', group: 'Finds', keys: ['x'], run: whenIdle(lookThroughPart) },
  { label: 'Next proposal', group: 'Finds', keys: ['g'], run: whenIdle(() => stepToProposal(1)) },
  { label: 'Previous proposal', group: 'Finds', keys: ['shift+g'], run: whenIdle(() => stepToProposal(-1)) },
  { label: 'Hear it as it will sound', group: 'Finds', keys: ['h'], run: () => void hearProposal() },
  {
    label: 'Accept it, with the ends of the selection',
    group: 'Finds',
    keys: ['a'],
    run: whenIdle(acceptProposal),
  },
  { label: 'Accept all of its kind', group: 'Finds', keys: ['shift+a'], run: whenIdle(acceptAllLikeCurrent) },
  { label: 'Refuse it', group: 'Finds', keys: ['r'], run: whenIdle(refuseProposal) },
  { label: 'Import sound files', group: 'Edit', keys: ['shift+i'], run: whenIdle(openImport) },
  { label: 'Undo', group: 'Edit', keys: ['mod+z'], run: whenIdle(() => void undo()) },
  { label: 'Redo', group: 'Edit', keys: ['shift+mod+z', 'mod+y'], run: whenIdle(() => void redo()) },
  { label: 'Flub mark', group: 'Mark', keys: ['f'], run: () => mark('flub') },
  {
    label: 'Flub from here; pressed again, to here',
    group: 'Mark',
    keys: ['shift+f'],
    run: markFlubRange,
  },
  {
    label: 'The current line is read from the caret on',
    group: 'Mark',
    keys: ['v'],
    run: whenIdle(currentLineFromCaret),
  },
  { label: 'Note', group: 'Mark', keys: ['n'], run: () => mark('note') },
  {
    label: 'Part mark; with “keep going”: on into the next part',
    group: 'Mark',
    keys: ['p'],
    run: () => mark('part'),
  },
  { label: 'Fewer seconds on a row', group: 'Look', keys: ['mod+='], run: () => zoom(-1) },
  { label: 'More seconds on a row', group: 'Look', keys: ['mod+-'], run: () => zoom(1) },
  { label: 'Loupe', group: 'Look', keys: ['z'], run: () => setView({ loupe: !useView.getState().loupe }) },
  {
    label: 'Wave or spectrum',
    group: 'Look',
    keys: ['q'],
    run: () => setView({ picture: useView.getState().picture === 'wave' ? 'spectrum' : 'wave' }),
  },
  { label: 'The script, large and dark', group: 'Look', keys: ['b'], run: () => setView({ prompter: true }) },
  { label: 'Larger script', group: 'Look', keys: ['shift+mod+='], run: () => stepPrompter(1) },
  { label: 'Smaller script', group: 'Look', keys: ['shift+mod+-'], run: () => stepPrompter(-1) },
  { label: 'All keys', group: 'Look', keys: ['?'], run: () => useView.setState({ keysShown: true }) },
];
