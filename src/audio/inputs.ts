import { ParolaError } from '@/core/base/errors';

/** An open input: its node goes into the capture worklet. */
export interface OpenInput {
  readonly node: AudioNode;
  /** “USB microphone · mono · 48 kHz”, without the device's name. */
  readonly granted: string;
  /** Told once when the device goes away by itself. */
  onLost(handler: () => void): void;
  /** The practice reader reads only while a take runs; a microphone needs no telling. */
  start?(atSeconds: number): void;
  stop?(atSeconds: number): void;
  close(): void;
}

export interface Microphone {
  deviceId: string;
  label: string;
}

/** Microphones the browser lets Parola see; labels are empty until permission was given once. */
export async function listMicrophones(): Promise<Microphone[]> {
  const devices = (await navigator.mediaDevices?.enumerateDevices()) ?? [];
  return devices
    .filter(
      ({ kind, deviceId }) =>
        kind === 'audioinput' && deviceId !== 'default' && deviceId !== 'communications',
    )
    .map(({ deviceId, label }) => ({ deviceId, label }));
}

const unprocessed = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };

/**
 * Opens exactly the chosen microphone, without any processing; never another one in its place. An empty `deviceId` asks the browser
 * to let the user choose. Throws `permission-denied`, `no-device` or `device-lost`.
 */
export async function openMicrophone(
  context: AudioContext,
  deviceId: string,
): Promise<{ input: OpenInput; deviceId: string; label: string }> {
  const stream = await requestStream(deviceId, context.sampleRate);
  const [device] = stream.getAudioTracks();
  const settings = device.getSettings();
  const node = context.createMediaStreamSource(stream);
  const input: OpenInput = {
    node,
    granted: describe(settings, context.sampleRate),
    onLost: (handler) => device.addEventListener('ended', handler, { once: true }),
    close: () => {
      node.disconnect();
      device.stop();
    },
  };
  return { input, deviceId: settings.deviceId ?? deviceId, label: device.label || 'Microphone' };
}

function describe(
  { channelCount, sampleRate, ...settings }: MediaTrackSettings,
  contextRateHz: number,
): string {
  const processing = Object.keys(unprocessed).filter((key) => settings[key as keyof typeof unprocessed]);
  return [
    channelCount === 1 ? 'mono' : 'first input of ' + (channelCount ?? '?'),
    `${(sampleRate ?? contextRateHz) / 1000} kHz`,
    ...(processing.length > 0 ? [`processed by the system: ${processing.join(', ')}`] : []),
  ].join(' · ');
}

async function requestStream(deviceId: string, sampleRate: number): Promise<MediaStream> {
  if (!navigator.mediaDevices) {
    throw new ParolaError(
      'no-device',
      'This browser gives no access to microphones here. Open Parola at its own address (localhost or https).',
    );
  }
  try {
    return await navigator.mediaDevices.getUserMedia({
      audio: { ...unprocessed, sampleRate, ...(deviceId ? { deviceId: { exact: deviceId } } : {}) },
    });
  } catch (thrown) {
    throw microphoneError(thrown instanceof Error ? thrown.name : '', String(thrown));
  }
}

function microphoneError(name: string, detail: string): ParolaError {
  switch (name) {
    case 'NotAllowedError':
    case 'SecurityError':
      return new ParolaError(
        'permission-denied',
        'The browser does not let Parola use the microphone. Allow it at the microphone sign beside the address, then choose the input again.',
      );
    case 'NotFoundError':
      return new ParolaError(
        'no-device',
        'There is no microphone. Plug one in and choose the input again, or use the practice reader.',
      );
    case 'OverconstrainedError':
      return new ParolaError(
        'device-lost',
        'The microphone chosen before is not there. Plug it in, or choose another input; Parola does not take one by itself.',
      );
    case 'NotReadableError':
      return new ParolaError(
        'device-lost',
        'The microphone is there but does not answer; another program may hold it. Close that program and choose the input again.',
      );
    default:
      return new ParolaError(
        'device-lost',
        `The microphone could not be opened (${detail}). Choose the input again.`,
      );
  }
}
