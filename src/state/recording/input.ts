import { say, written } from '@/texts/say';
import { create } from 'zustand';
import { listMicrophones, listOutputs, onDevicesChanged, type Device } from '@/audio/inputs';
import { toParolaError } from '@/core/base/errors';
import { inputWarnings } from '@/core/recording/inputAdvice';
import {
  armedTracks,
  mainInput,
  routeOf,
  unreachableTracks,
  type ArmedTrack,
} from '@/core/recording/routing';
import type { InputChoice, Route } from '@/storage/schema';
import { readSetting, writeSetting } from '@/storage/settings';
import { onEngineStopped } from '../hearing/engine';
import { closeInput, openInput, setMonitoring } from './openInputs';
import { notify } from '../page/notices';
import { usePart } from '../sheet/part';
import { setInputChoice, setRoutes } from '../project/settings';
import { rateOfProject, useProject } from '../project/openProject';
import { useTransport } from '../hearing/transport';

interface Input {
  status: 'none' | 'opening' | 'open' | 'failed';
  choice: InputChoice | null;
  /** What the device grants, or why it could not be opened. */
  detail: string;
  channels: number;
  warnings: string[];
  monitoring: boolean;
  /** Devices as they are plugged in now. */
  microphones: Device[];
  outputs: Device[];
  /** The lists have been read. */
  listed: boolean;
  /** Name of the microphone that was used last on this machine. */
  lastMicrophone: string | null;
}

const none: Input = {
  status: 'none',
  choice: null,
  detail: '',
  channels: 0,
  warnings: [],
  monitoring: false,
  microphones: [],
  outputs: [],
  listed: false,
  lastMicrophone: null,
};

export const useInput = create<Input>(() => none);

const set = useInput.setState;
const get = useInput.getState;

const readerNames = {
  narration: say`Practice reader`,
  conversation: say`Practice reader, two voices`,
  interpretation: say`Practice interpreter`,
  cues: say`Practice reader, cue by cue`,
} as const;

export const inputName = (choice: InputChoice) => {
  switch (choice.kind) {
    case 'reader':
      return readerNames[choice.script ?? 'narration'];
    case 'file':
      return choice.name;
    case 'far':
      return say`Far away`;
    case 'microphone':
      return choice.label;
  }
};

let file: File | null = null;
let endTake: () => Promise<void> = () => Promise.resolve();
let opening = 0;

/** Who has to know when an input goes away: the recording, which ends its take. */
export function followLostInputs(end: () => Promise<void>): void {
  endTake = end;
}

/**
 * Opens an input the user chose, in place of one that is open or still being opened. It is kept with the
 * project once it works.
 */
export async function chooseInput(choice: InputChoice, chosenFile: File | null = null): Promise<void> {
  if (useTransport.getState().mode !== 'idle') return;
  if (chosenFile) file = chosenFile;
  const mine = ++opening;
  set({ status: 'opening', choice, detail: '', warnings: [], monitoring: false });
  try {
    const wanted = await present(choice);
    const { input, choice: granted } = await openInput(mainInput, wanted, rateOfProject(), file, inputLost);
    if (mine !== opening) return;
    const detail = `${input.channels === 1 ? say`mono` : say`${input.channels} inputs`} · ${written((input.granted.rateHz ?? rateOfProject()) / 1000)} kHz`;
    set({ status: 'open', choice: granted, detail, channels: input.channels });
    setInputChoice(granted);
    const highest = Math.max(
      1,
      ...armed(usePart.getState().timeline.tracks, 64).map(({ channel }) => channel + 1),
    );
    if (granted.kind === 'microphone') {
      set({ warnings: inputWarnings(input.granted, { rateHz: rateOfProject(), channels: highest }) });
      rememberMicrophone(granted);
    }
    // Names of devices are only told once one was allowed.
    void refreshDevices().catch(() => undefined);
  } catch (thrown) {
    if (mine !== opening) return;
    const error = toParolaError(thrown);
    set({ status: 'failed', detail: error.message, channels: 0 });
    notify('error', error.message, 'booth');
  }
}

/** The microphone that was opened last on this machine, so that it is offered first. */
const lastMicrophone = 'lastMicrophone';

function rememberMicrophone({ label }: { label: string }) {
  set({ lastMicrophone: label });
  void writeSetting(lastMicrophone, label).catch(() => undefined);
}

/**
 * A microphone whose id the browser has changed is found by its name, if only one has it. Never another one.
 */
async function present(choice: InputChoice): Promise<InputChoice> {
  if (choice.kind !== 'microphone' || choice.deviceId === '') return choice;
  const devices = await listMicrophones();
  if (devices.some(({ deviceId }) => deviceId === choice.deviceId)) return choice;
  const named = devices.filter(({ label }) => label !== '' && label === choice.label);
  return named.length === 1 ? { ...choice, deviceId: named[0].deviceId } : choice;
}

/**
 * The input went away by itself: a running take ends with what was captured, and whatever is there can be
 * chosen.
 */
function inputLost() {
  const { choice, status } = get();
  if (status !== 'open') return;
  const { mode } = useTransport.getState();
  const name = choice ? inputName(choice) : say`The input`;
  set({
    status: 'failed',
    detail: say`${name} is gone. Plug it in and choose it again.`,
    monitoring: false,
    channels: 0,
  });
  if (mode === 'recording' || mode === 'rolling') {
    notify(
      'error',
      say`${name} went away while recording. Everything up to then is kept. Plug it in and choose it again to go on.`,
      'booth',
    );
  } else {
    notify(
      'warning',
      say`${name} went away. Plug it in and choose it again, or choose another input.`,
      'booth',
    );
  }
  const ended = endTake();
  // The recorder reads what was captured to its end, and the take ends there.
  closeInput(mainInput);
  void ended;
}

onEngineStopped((gone) => {
  const { mode } = useTransport.getState();
  if (gone) inputLost();
  else if (mode === 'recording' || mode === 'rolling') {
    notify(
      'error',
      say`The browser has interrupted the sound. Everything up to then is kept; record again to go on.`,
      'booth',
    );
    void endTake();
  }
});

/** Forgets the input when the project is closed. */
export function resetInput(): void {
  file = null;
  opening++;
  const { microphones, outputs, listed, lastMicrophone: last } = get();
  set({ ...none, microphones, outputs, listed, lastMicrophone: last });
}

/** Reads the lists of devices anew; a chosen microphone that has come back is opened again. */
export async function refreshDevices(): Promise<void> {
  const [microphones, outputs] = await Promise.all([listMicrophones(), listOutputs()]);
  set({ microphones, outputs, listed: true });
  const { status, choice } = get();
  if (status !== 'failed' || choice?.kind !== 'microphone' || choice.deviceId === '') return;
  if (!isThere(choice, microphones)) return;
  await chooseInput(choice);
  if (get().status === 'open') notify('success', say`${choice.label} is back.`);
}

/** Follows plugging in and out for as long as a project is open; returns how to stop. */
export function followDevices(): () => void {
  void refreshDevices().catch(() => undefined);
  void readSetting<string>(lastMicrophone).then(
    (label) => label && set({ lastMicrophone: label }),
    () => undefined,
  );
  return onDevicesChanged(() => void refreshDevices().catch(() => undefined));
}

const isThere = (choice: { deviceId: string; label: string }, microphones: readonly Device[]) =>
  microphones.some(
    ({ deviceId, label }) => deviceId === choice.deviceId || (label !== '' && label === choice.label),
  );

/** The microphone used last in this project, when it can be told that it is not plugged in. */
export function missingMicrophone(): string | null {
  const remembered = get().choice ?? useProject.getState().project?.input ?? null;
  const { microphones, status, listed } = get();
  if (!listed || status === 'open' || remembered?.kind !== 'microphone' || remembered.deviceId === '')
    return null;
  // Without permission devices have no names: then nothing can be said about them.
  const nameless = microphones.length > 0 && microphones.every(({ label }) => label === '');
  return nameless || isThere(remembered, microphones) ? null : remembered.label;
}

export function monitor(on: boolean): void {
  setMonitoring(on);
  set({ monitoring: on });
}

// — Which input goes to which track —

export const routes = (): readonly Route[] => useProject.getState().project?.routes ?? [];

const armed = (tracks: readonly { id: string; name: string }[], channels: number) =>
  armedTracks(tracks, routes(), { [mainInput]: channels });

/** What Record will write, with the channels of the open input. */
export const armedNow = (): ArmedTrack[] => armed(usePart.getState().timeline.tracks, get().channels);

export const unreachableNow = (): ArmedTrack[] =>
  unreachableTracks(usePart.getState().timeline.tracks, routes(), { [mainInput]: get().channels });

/** Changes the route of one track of the open part. */
export function setRoute(trackId: string, changes: Partial<Omit<Route, 'track'>>): void {
  const { tracks } = usePart.getState().timeline;
  const index = tracks.findIndex(({ id }) => id === trackId);
  const next = { ...routeOf(trackId, index, routes()), ...changes };
  setRoutes([...routes().filter(({ track }) => track !== trackId), next]);
}

export type { ArmedTrack } from '@/core/recording/routing';
