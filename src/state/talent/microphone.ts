import { say, written } from '@/texts/say';
import { listMicrophones, unprocessed } from '@/audio/inputs';
import { amplitudeToDb, powerToDb } from '@/core/base/units';
import type { RingLevels } from '@/core/base/ring';
import { toParolaError } from '@/core/base/errors';
import { inputWarnings } from '@/core/recording/inputAdvice';
import { mainInput } from '@/core/recording/routing';
import type { InputChoice } from '@/storage/schema';
import { currentEngine, startEngine, stopEngine } from '../hearing/engine';
import { inputName } from '../recording/input';
import { closeInputs, levels, openedInput, openInput } from '../recording/openInputs';
import { stopRecorder } from '../recording/recorder';
import { useTalent } from './talent';

/** Where a microphone does not say its rate, this is recorded. */
const usualRateHz = 48_000;
const lowestDb = -120;

let outgoing: MediaStreamAudioDestinationNode | null = null;
/** What a simulated network makes of the sound: it comes later. */
let late: DelayNode | null = null;
const longestSeconds = 2;
let element: HTMLAudioElement | null = null;
let heard: MediaStreamAudioSourceNode | null = null;
let reader: RingLevels | null = null;

export const microphones = listMicrophones;

/** Asks a microphone for the rate it runs at, so that nothing has to be converted where it is recorded. */
async function rateOf(choice: InputChoice): Promise<number> {
  if (choice.kind !== 'microphone') return usualRateHz;
  const stream = await navigator.mediaDevices.getUserMedia({
    audio: { ...unprocessed, ...(choice.deviceId && { deviceId: { exact: choice.deviceId } }) },
  });
  const [track] = stream.getAudioTracks();
  const { sampleRate = usualRateHz } = track.getSettings();
  track.stop();
  return sampleRate >= 8000 && sampleRate <= 192_000 ? sampleRate : usualRateHz;
}

/** Opens the microphone the talent chose, unprocessed; told in its place where it cannot be opened. */
export async function openTalentMicrophone(choice: InputChoice): Promise<void> {
  useTalent.setState({ microphone: 'opening', microphoneDetail: '', warnings: [] });
  try {
    closeMicrophone();
    const rateHz = await rateOf(choice).catch(() => usualRateHz);
    await stopEngine();
    await startEngine(rateHz);
    const { input, choice: granted } = await openInput(mainInput, choice, rateHz, null, lost);
    reader = levels(0);
    cleanedFor = granted.kind === 'microphone' ? granted.deviceId : null;
    const name = inputName(granted);
    useTalent.setState({
      microphone: 'open',
      microphoneName: name,
      microphoneDetail: `${written((input.granted.rateHz ?? rateHz) / 1000)} kHz`,
      warnings: granted.kind === 'microphone' ? inputWarnings(input.granted, { rateHz, channels: 1 }) : [],
    });
  } catch (thrown) {
    useTalent.setState({ microphone: 'failed', microphoneDetail: toParolaError(thrown).message });
  }
}

function lost() {
  useTalent.setState({
    microphone: 'failed',
    microphoneDetail: say`The microphone is gone. Plug it in and choose it again; what was recorded is kept.`,
  });
  closeInputs();
}

export function closeMicrophone(): void {
  cleanedTrack?.stop();
  cleanedTrack = null;
  late?.disconnect();
  outgoing?.disconnect();
  heard?.disconnect();
  if (element) element.srcObject = null;
  outgoing = late = heard = reader = element = null;
  closeInputs();
  stopRecorder();
  if (useTalent.getState().microphone === 'open') useTalent.setState({ microphone: 'closed' });
}

/** What is said of the microphone when a line opens. */
export function microphoneHello(): { rateHz: number; input: string; granted: string } {
  const { microphoneName, microphoneDetail, warnings } = useTalent.getState();
  return {
    rateHz: currentEngine()?.context.sampleRate ?? usualRateHz,
    input: microphoneName.slice(0, 200),
    granted: [microphoneDetail, ...warnings].join(' ').slice(0, 500),
  };
}

/** The sound of the microphone as it goes over a line. */
export function lineSound(): MediaStreamTrack | null {
  const engine = currentEngine();
  const input = openedInput();
  if (cleanedTrack) return cleanedTrack;
  if (!engine || !input) return null;
  outgoing?.disconnect();
  outgoing = new MediaStreamAudioDestinationNode(engine.context, { channelCount: 1 });
  late = new DelayNode(engine.context, { maxDelayTime: longestSeconds });
  delayLine();
  input.node.connect(late).connect(outgoing);
  return outgoing.stream.getAudioTracks()[0];
}

/** The sound takes as long as words do, for a guest who practises; no longer for anybody else. */
export function delayLine(): void {
  const { weather } = useTalent.getState();
  if (late) late.delayTime.value = Math.min(longestSeconds, (weather?.delayMs ?? 0) / 1000);
}

let cleanedTrack: MediaStreamTrack | null = null;
let cleanedFor: string | null = null;

/**
 * The sound for a line over which people talk without headphones: the same microphone once more, with echo
 * and noise taken out. What is recorded stays as it is. Null where nothing changes.
 */
export async function cleanLine(on: boolean): Promise<MediaStreamTrack | null> {
  if (on === (cleanedTrack !== null)) return null;
  cleanedTrack?.stop();
  cleanedTrack = null;
  if (!on || cleanedFor === null) return lineSound();
  const processing = { echoCancellation: true, noiseSuppression: true, autoGainControl: true };
  const device = cleanedFor ? { deviceId: { exact: cleanedFor } } : {};
  const stream = await navigator.mediaDevices
    .getUserMedia({ audio: { ...processing, ...device } })
    .catch(() => null);
  cleanedTrack = stream?.getAudioTracks()[0] ?? null;
  return cleanedTrack;
}

/** The studio's sound: what it plays, and its voice. */
export function hearStudio(stream: MediaStream): void {
  const engine = currentEngine();
  if (!engine) return;
  heard?.disconnect();
  element = new Audio();
  element.muted = true;
  element.srcObject = stream;
  void element.play().catch(() => undefined);
  heard = engine.context.createMediaStreamSource(stream);
  heard.connect(engine.bus);
}

/** Level since it was asked last, dBFS; null where nothing came. */
export function levelNow(): { peakDb: number; rmsDb: number } | null {
  const taken = reader?.take();
  if (!taken) return null;
  return {
    peakDb: Math.max(lowestDb, amplitudeToDb(taken.peak)),
    rmsDb: Math.max(lowestDb, powerToDb(taken.meanSquare)),
  };
}
