import { sheetFramesOf } from '@/core/timeline/timeline';
import {
  addMark,
  closeUpSelection,
  redo,
  select,
  selectFromCaret,
  setCaret,
  stetSelection,
  strikeSelection,
  undo,
  usePart,
} from '@/state/part';
import { stepToPause } from '@/state/pauseSteps';
import { stepLine } from '@/state/script';
import { rateOfProject, type RecordMode } from '@/state/session';
import { play, stopPlaying } from '@/state/playing';
import { recordSettings, setRecordSettings } from '@/state/projectActions';
import { record, retakeSentence, startNextPart, stopRecording } from '@/state/recording';
import { stepToSentence } from '@/state/sentenceSteps';
import { openSoundCheck } from '@/state/soundCheck';
import { circleAtCaret } from '@/state/takes';
import { headFrame, useTransport } from '@/state/transport';
import { useView, zoom } from '@/state/view';

export interface Command {
  label: string;
  group: 'Record and play' | 'Move' | 'Edit' | 'Mark' | 'Look';
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
  { label: 'Start of the part', group: 'Move', keys: ['home'], run: whenIdle(() => setCaret(0)) },
  { label: 'End of the part', group: 'Move', keys: ['end'], run: whenIdle(() => setCaret(sheetEnd())) },
  { label: 'Next line of the script', group: 'Move', keys: ['l', 'pagedown'], run: () => stepLine(1) },
  {
    label: 'Previous line of the script',
    group: 'Move',
    keys: ['shift+l', 'pageup'],
    run: () => stepLine(-1),
  },
  {
    label: 'Selection starts at the caret',
    group: 'Edit',
    keys: ['['],
    run: whenIdle(() => selectFromCaret('start')),
  },
  {
    label: 'Selection ends at the caret',
    group: 'Edit',
    keys: [']'],
    run: whenIdle(() => selectFromCaret('end')),
  },
  { label: 'Select all', group: 'Edit', keys: ['mod+a'], run: whenIdle(() => select(0, sheetEnd())) },
  {
    label: 'Strike the selection',
    group: 'Edit',
    keys: ['backspace', 'delete'],
    run: whenIdle(strikeSelection),
  },
  {
    label: 'Stet: let it stand again',
    group: 'Edit',
    keys: ['shift+backspace', 'shift+delete'],
    run: whenIdle(stetSelection),
  },
  { label: 'Close up struck passages', group: 'Edit', keys: ['mod+j'], run: whenIdle(closeUpSelection) },
  { label: 'Undo', group: 'Edit', keys: ['mod+z'], run: whenIdle(() => void undo()) },
  { label: 'Redo', group: 'Edit', keys: ['shift+mod+z', 'mod+y'], run: whenIdle(() => void redo()) },
  { label: 'Flub mark', group: 'Mark', keys: ['f'], run: () => mark('flub') },
  { label: 'Note', group: 'Mark', keys: ['n'], run: () => mark('note') },
  {
    label: 'Part mark; with “keep going”: on into the next part',
    group: 'Mark',
    keys: ['p'],
    run: () => mark('part'),
  },
  { label: 'Fewer seconds on a row', group: 'Look', keys: ['mod+='], run: () => zoom(-1) },
  { label: 'More seconds on a row', group: 'Look', keys: ['mod+-'], run: () => zoom(1) },
  { label: 'All keys', group: 'Look', keys: ['?'], run: () => useView.setState({ keysShown: true }) },
];
