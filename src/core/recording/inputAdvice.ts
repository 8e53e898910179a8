import { say } from '../../texts/say';
/** What a device grants, as far as the browser tells. */
export interface GrantedInput {
  label: string;
  rateHz: number | null;
  channels: number | null;
  echoCancellation: boolean;
  noiseSuppression: boolean;
  autoGainControl: boolean;
}

const builtIn = /built[- ]?in|internal|integrated|laptop|macbook|webcam|facetime|\bhd\b.*camera|array/i;
const headset = /bluetooth|hands[- ]?free|\bhfp\b|\bhsp\b|airpods|wireless headset/i;

const processing = {
  echoCancellation: say`echo cancellation`,
  noiseSuppression: say`noise suppression`,
  autoGainControl: say`automatic gain`,
} as const;

/**
 * Plain warnings about an input that was opened, before anything is recorded with it; empty when there is
 * nothing to say.
 */
export function inputWarnings(granted: GrantedInput, asked: { rateHz: number; channels: number }): string[] {
  const { label, rateHz, channels } = granted;
  const warnings: string[] = [];
  if (headset.test(label)) {
    warnings.push(
      say`“${label}” looks like a Bluetooth headset: as a microphone it is narrow-band, like a telephone. Use a wired microphone.`,
    );
  } else if (builtIn.test(label)) {
    warnings.push(
      say`“${label}” looks like the computer’s own microphone. If you meant another one, choose it before you record.`,
    );
  }
  if (rateHz !== null && rateHz !== asked.rateHz) {
    warnings.push(
      say`The device runs at ${rateHz / 1000} kHz, the project at ${asked.rateHz / 1000} kHz: the system converts. Set the device to ${asked.rateHz / 1000} kHz in the system’s sound settings.`,
    );
  }
  if (channels !== null && channels < asked.channels) {
    warnings.push(
      say`The device gives ${channels === 1 ? say`one input` : say`${channels} inputs`}, but input ${asked.channels} is chosen: nothing comes from there.`,
    );
  }
  const active = (Object.keys(processing) as (keyof typeof processing)[]).filter((key) => granted[key]);
  if (active.length > 0) {
    warnings.push(
      say`The system processes this microphone (${active.map((key) => processing[key]).join(', ')}) although Parola asked for none: turn it off in the system’s sound settings.`,
    );
  }
  return warnings;
}
