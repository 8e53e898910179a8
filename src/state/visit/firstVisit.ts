import { say } from '@/texts/say';
import { create } from 'zustand';
import { framesOf } from '@/core/timeline/range';
import { readSetting, writeSetting } from '@/storage/settings';
import { useExported } from '../files/exporting';
import { whenProjectCloses } from '../page/resets';
import { useProject } from '../project/openProject';
import { proofOf, useProofing } from '../proof/proofing';
import { chooseInput, useInput } from '../recording/input';
import { usePart } from '../sheet/part';

/** The whole job, done for real: what is done is told by what is there then. */
export const visitSteps = [
  {
    id: 'record',
    screen: 'booth',
    title: say`Record`,
    text: say`{key:record}, or the red button: the practice reader goes on at the end of the sheet. After a sentence or two the same key ends the take.`,
  },
  {
    id: 'flub',
    screen: 'booth',
    title: say`Mark a flub`,
    text: say`{key:record} once more, and while it is read {key:flub}, as if a word had slipped: the place is marked, the reading goes on. {key:record} ends the take.`,
  },
  {
    id: 'strike',
    screen: 'booth',
    title: say`Strike it`,
    text: say`{key:previousMark} goes to the mark, {key:selectSentence} selects the sentence, {key:strike} strikes it. What is struck is not heard, and stays: {key:undo} brings it back.`,
  },
  {
    id: 'proof',
    screen: 'proof',
    title: say`Read the proof`,
    text: say`The Proof measures what is heard against what the client wants, and says what to do about it in words.`,
  },
  {
    id: 'export',
    screen: 'proof',
    title: say`Export it`,
    text: say`“Make it pass” sets the level the client wants. Then export: the file is written, read back and measured once more.`,
  },
] as const;
export type VisitStep = (typeof visitSteps)[number];

interface Visit {
  /**
   * Index of the step that is to be done; the number of steps at the end, null when nobody is shown around.
   */
  step: number | null;
  /** It was gone through, or left: it is not offered by itself any more. */
  known: boolean;
}

export const useFirstVisit = create<Visit>(() => ({ step: null, known: true }));
const set = useFirstVisit.setState;
const get = useFirstVisit.getState;

const setting = 'firstVisit';

export async function readFirstVisit(): Promise<void> {
  const known = await readSetting<boolean>(setting).catch(() => true);
  if (get().step === null) set({ known: known === true });
}

function remember(): void {
  set({ known: true });
  void writeSetting(setting, true).catch(() => undefined);
}

/** What was there when the step began: only what comes after it counts. */
interface Before {
  takes: number;
  flubs: ReadonlySet<string>;
  struckFrames: number;
  report: unknown;
}

const flubs = () => usePart.getState().timeline.marks.filter(({ kind }) => kind === 'flub');
const struckFrames = () => framesOf(usePart.getState().timeline.struck);
const takes = () =>
  [...useProject.getState().sources.values()].filter(
    ({ role = 'take', state }) => role === 'take' && state === 'kept',
  ).length;

const now = (): Before => ({
  takes: takes(),
  flubs: new Set(flubs().map(({ id }) => id)),
  struckFrames: struckFrames(),
  report: useExported.getState().report,
});

let before = now();

const isDone: Record<VisitStep['id'], () => boolean> = {
  record: () => takes() > before.takes,
  flub: () => takes() > before.takes && flubs().some(({ id }) => !before.flubs.has(id)),
  strike: () => struckFrames() > before.struckFrames,
  proof: () => {
    const part = useProject.getState().parts.find(({ id }) => id === usePart.getState().id);
    return part !== undefined && proofOf(part) !== null;
  },
  export: () => {
    const { report } = useExported.getState();
    return report !== null && report !== before.report;
  },
};

function look(): void {
  const { step } = get();
  if (step === null || step >= visitSteps.length || !isDone[visitSteps[step].id]()) return;
  goTo(step + 1);
}

function goTo(step: number): void {
  before = now();
  set({ step });
  if (step >= visitSteps.length) remember();
}

/** Begins with the first step in the project that is opened next, or is open. */
export const beginFirstVisit = () => goTo(0);

export function leaveFirstVisit(): void {
  set({ step: null });
  remember();
}

/** A step can be left out: whoever knows it goes on to the next. */
export function skipStep(): void {
  const { step } = get();
  if (step !== null && step < visitSteps.length) goTo(step + 1);
}

export const takePracticeReader = () => {
  if (useInput.getState().status !== 'open') void chooseInput({ kind: 'reader' });
};

/** Looks at what is done for as long as a project is open. */
export function followFirstVisit(): () => void {
  // The project has just been opened: what is in it was there before.
  before = now();
  const unfollow = [usePart, useProject, useProofing, useExported].map((store) => store.subscribe(look));
  return () => unfollow.forEach((stop) => stop());
}

whenProjectCloses(() => {
  // At the end there is nothing left to do in another project.
  if (get().step === visitSteps.length) set({ step: null });
});
