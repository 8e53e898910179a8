import { create } from 'zustand';
import { listMicrophones, listOutputs, onDevicesChanged, type Microphone } from '@/audio/inputs';
import { toParolaError } from '@/core/base/errors';
import { inputWarnings } from '@/core/recording/inputAdvice';
import { armedTracks, routeOf, unreachableTracks, type ArmedTrack } from '@/core/recording/routing';
import type { InputChoice, Route } from '@/storage/schema';
import { closeInput, openInput, setMonitoring } from './engine';
import { notify } from './notices';
import { usePart } from './part';
import { setInputChoice, setRoutes } from './projectActions';
import { rateOfProject, useSession } from './session';
import { useTransport } from './transport';

interface Input {
  status: 'none' | 'opening' | 'open' | 'failed';
  choice: InputChoice | null;
  /** What the device grants, or why it could not be opened. */
  detail: string;
  channels: number;
  warnings: string[];
  monitoring: boolean;
  /** Devices as they are plugged in now. */
  microphones: Microphone[];
  outputs: Microphone[];
  /** The lists have been read. */
  listed: boolean;
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
};

export const useInput = create<Input>(() => none);

const set = useInput.setState;
const get = useInput.getState;

export const inputName = (choice: InputChoice) => {
  switch (choice.kind) {
    case 'reader':
      return choice.script === 'conversation' ? 'Practice reader, two voices' : 'Practice reader';
    case 'file':
      return choice.name;
    case 'microphone':
      return choice.label;
  }
};

let file: File | null = null;
let onLostInput: () => void = () => undefined;

/** Who has to know when an input goes away: the recording. */
export function onInputLost(handler: () => void): void {
  onLostInput = handler;
}

/** Opens an input the user chose. It is kept with the project once it works. */
export async function chooseInput(choice: InputChoice, chosenFile: File | null = null): Promise<void> {
  if (useTransport.getState().mode !== 'idle') return;
  if (chosenFile) file = chosenFile;
  set({ status: 'opening', choice, detail: '', warnings: [], monitoring: false });
  try {
    const wanted = await present(choice);
    const { input, choice: granted } = await openInput(wanted, rateOfProject(), file, inputLost);
    const detail = `${input.channels === 1 ? 'mono' : `${input.channels} inputs`} · ${(input.granted.rateHz ?? rateOfProject()) / 1000} kHz`;
    set({ status: 'open', choice: granted, detail, channels: input.channels });
    setInputChoice(granted);
    const highest = Math.max(
      1,
      ...armed(usePart.getState().timeline.tracks, 64).map(({ channel }) => channel + 1),
    );
    if (granted.kind === 'microphone') {
      set({ warnings: inputWarnings(input.granted, { rateHz: rateOfProject(), channels: highest }) });
    }
    // Names of devices are only told once one was allowed.
    void refreshDevices();
  } catch (thrown) {
    const error = toParolaError(thrown);
    set({ status: 'failed', detail: error.message, channels: 0 });
    notify('error', error.message);
  }
}

/** A microphone whose id the browser has changed is found by its name, if only one has it. Never another one. */
async function present(choice: InputChoice): Promise<InputChoice> {
  if (choice.kind !== 'microphone' || choice.deviceId === '') return choice;
  const devices = await listMicrophones();
  if (devices.some(({ deviceId }) => deviceId === choice.deviceId)) return choice;
  const named = devices.filter(({ label }) => label !== '' && label === choice.label);
  return named.length === 1 ? { ...choice, deviceId: named[0].deviceId } : choice;
}

function inputLost() {
  const { choice } = get();
  const { mode } = useTransport.getState();
  const name = choice ? inputName(choice) : 'The input';
  set({ status: 'failed', detail: `${name} is gone. Plug it in and choose it again.`, monitoring: false });
  if (mode === 'recording' || mode === 'rolling') {
    onLostInput();
    notify(
      'error',
      `${name} went away while recording. Everything up to then is kept. Plug it in and choose it again to go on.`,
    );
  } else {
    notify('warning', `${name} went away. Plug it in and choose it again, or choose another input.`);
  }
  void closeInput();
}

/** Forgets the input when the project is closed. */
export function resetInput(): void {
  file = null;
  const { microphones, outputs, listed } = get();
  set({ ...none, microphones, outputs, listed });
}

/** Reads the lists of devices anew; a chosen microphone that has come back is opened again. */
export async function refreshDevices(): Promise<void> {
  const [microphones, outputs] = await Promise.all([listMicrophones(), listOutputs()]);
  set({ microphones, outputs, listed: true });
  const { status, choice } = get();
  if (status !== 'failed' || choice?.kind !== 'microphone' || choice.deviceId === '') return;
  if (!isThere(choice, microphones)) return;
  await chooseInput(choice);
  if (get().status === 'open') notify('success', `${choice.label} is back.`);
}

/** Follows plugging in and out for as long as a project is open; returns how to stop. */
export function followDevices(): () => void {
  void refreshDevices();
  return onDevicesChanged(() => void refreshDevices());
}

const isThere = (choice: { deviceId: string; label: string }, microphones: readonly Microphone[]) =>
  microphones.some(
    ({ deviceId, label }) => deviceId === choice.deviceId || (label !== '' && label === choice.label),
  );

/** The microphone used last in this project, when it can be told that it is not plugged in. */
export function missingMicrophone(): string | null {
  const remembered = get().choice ?? useSession.getState().project?.input ?? null;
  const { microphones, status, listed } = get();
  if (!listed || status === 'open' || remembered?.kind !== 'microphone' || remembered.deviceId === '')
    return null;
  // Without permission devices have no names: then nothing can be said about them.
  const nameless = microphones.length > 0 && microphones.every(({ label }) => label === '');
  return nameless || isThere(remembered, microphones) ? null : remembered.label;
}

export async function monitor(on: boolean): Promise<void> {
  await setMonitoring(on);
  set({ monitoring: on });
}

// — Which input goes to which track —

export const routes = (): readonly Route[] => useSession.getState().project?.routes ?? [];

const armed = (tracks: readonly { id: string; name: string }[], channels: number) =>
  armedTracks(tracks, routes(), channels);

/** What Record will write, with the channels of the open input. */
export const armedNow = (): ArmedTrack[] => armed(usePart.getState().timeline.tracks, get().channels);

export const unreachableNow = (): ArmedTrack[] =>
  unreachableTracks(usePart.getState().timeline.tracks, routes(), get().channels);

/** Changes the route of one track of the open part. */
export function setRoute(trackId: string, changes: Partial<Omit<Route, 'track'>>): void {
  const { tracks } = usePart.getState().timeline;
  const index = tracks.findIndex(({ id }) => id === trackId);
  const next = { ...routeOf(trackId, index, routes()), ...changes };
  setRoutes([...routes().filter(({ track }) => track !== trackId), next]);
}
