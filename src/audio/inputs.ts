import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import type { GrantedInput } from '@/core/recording/inputAdvice';

/** An open input: its node goes into the capture worklet. Times are frames of the context. */
export interface OpenInput {
  readonly node: AudioNode;
  readonly channels: number;
  readonly granted: GrantedInput;
  /** From playing to capturing, as far as the browser can tell without a loopback check. */
  readonly estimatedRoundTripFrames: number;
  /** Told once when the device goes away by itself. */
  onLost(handler: () => void): void;
  /**
   * A simulated input reads only while a take runs; a microphone needs no telling. The talent begins at
   * `atFrame`; where a line is said, it stands in `line` on the sheet.
   */
  start?(atFrame: number, line?: { readonly from: number; readonly to: number }): void;
  stop?(atFrame: number): void;
  /** Lets a simulated input hear what is played, for a loopback check; a real one hears it by itself. */
  hear?(on: boolean): void;
  close(): void;
}

/** An input or output device of the system. */
export interface Device {
  deviceId: string;
  label: string;
}

/**
 * Devices the browser lets Parola see; labels are empty until permission was given once. The system's own
 * aliases are left out.
 */
async function listDevices(kind: MediaDeviceKind): Promise<Device[]> {
  const devices = (await navigator.mediaDevices?.enumerateDevices()) ?? [];
  return devices
    .filter(
      (device) =>
        device.kind === kind && device.deviceId !== 'default' && device.deviceId !== 'communications',
    )
    .map(({ deviceId, label }) => ({ deviceId, label }));
}

export const listMicrophones = () => listDevices('audioinput');
export const listOutputs = () => listDevices('audiooutput');

/** Tells whenever a device is plugged in or out; returns how to stop. */
export function onDevicesChanged(handler: () => void): () => void {
  navigator.mediaDevices?.addEventListener('devicechange', handler);
  return () => navigator.mediaDevices?.removeEventListener('devicechange', handler);
}

/** What a system may do to a voice; what is recorded is what the microphone gave. */
export const unprocessed = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };

/** More inputs than this no interface offers through a browser; the device says how many there are. */
const mostChannels = 32;

/**
 * Opens exactly the chosen microphone with all its inputs, without any processing; never another one in its
 * place. An empty `deviceId` asks the browser to let the user choose. Throws `permission-denied`, `no-device`
 * or `device-lost`.
 */
export async function openMicrophone(
  context: AudioContext,
  deviceId: string,
): Promise<{ input: OpenInput; deviceId: string; label: string }> {
  const stream = await requestStream(deviceId, context.sampleRate);
  const [device] = stream.getAudioTracks();
  const settings = device.getSettings();
  const channels = Math.min(mostChannels, Math.max(1, settings.channelCount ?? 1));
  const node = context.createMediaStreamSource(stream);
  const label = device.label || say`Microphone`;
  const latencySeconds =
    context.baseLatency + (context.outputLatency || 0) + ((settings as { latency?: number }).latency ?? 0);
  const input: OpenInput = {
    node,
    channels,
    granted: {
      label,
      rateHz: settings.sampleRate ?? null,
      channels: settings.channelCount ?? null,
      echoCancellation: settings.echoCancellation === true,
      noiseSuppression: settings.noiseSuppression === true,
      autoGainControl: settings.autoGainControl === true,
    },
    estimatedRoundTripFrames: Math.round(latencySeconds * context.sampleRate),
    onLost: (handler) => device.addEventListener('ended', handler, { once: true }),
    close: () => {
      node.disconnect();
      device.stop();
    },
  };
  return { input, deviceId: settings.deviceId ?? deviceId, label };
}

async function requestStream(deviceId: string, sampleRate: number): Promise<MediaStream> {
  if (!navigator.mediaDevices) {
    throw new ParolaError(
      'no-device',
      say`This browser gives no access to microphones here. Open Parola at its own address (localhost or https).`,
    );
  }
  try {
    return await navigator.mediaDevices.getUserMedia({
      audio: {
        ...unprocessed,
        sampleRate,
        channelCount: { ideal: mostChannels },
        ...(deviceId ? { deviceId: { exact: deviceId } } : {}),
      },
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
        say`The browser does not let Parola use the microphone. Allow it at the microphone sign beside the address, then choose the input again.`,
      );
    case 'NotFoundError':
      return new ParolaError(
        'no-device',
        say`There is no microphone. Plug one in and choose the input again, or use the practice reader.`,
      );
    case 'OverconstrainedError':
      return new ParolaError(
        'device-lost',
        say`The microphone chosen before is not there. Plug it in, or choose another input; Parola does not take one by itself.`,
      );
    case 'NotReadableError':
      return new ParolaError(
        'device-lost',
        say`The microphone is there but does not answer; another program may hold it. Close that program and choose the input again.`,
      );
    default:
      return new ParolaError(
        'device-lost',
        say`The microphone could not be opened (${detail}). Choose the input again.`,
      );
  }
}
