import type { OpenInput } from './inputs';

/** The shipped reading: the script of the demo, with flubs, claps and re-readings, in a quiet room. */
const readingUrl = '/demo/practice-reader.mp3';

/** The room before the reader begins, and after it stops: this stretch of the reading is looped. */
const roomSeconds = { from: 0.05, to: 0.85 };

let decoded: Promise<AudioBuffer> | null = null;
/** Where the next take goes on reading, in seconds; kept while the page is open, as a reader keeps the place. */
let place = 0;

const load = (context: BaseAudioContext) =>
  fetch(readingUrl)
    .then((response) => response.arrayBuffer())
    .then((bytes) => context.decodeAudioData(bytes));

/** A stand-in for a microphone: reads while a take runs, goes on where it stopped, is a quiet room otherwise. */
export async function openPracticeReader(context: AudioContext): Promise<OpenInput> {
  if (decoded && (await decoded).sampleRate !== context.sampleRate) decoded = null;
  decoded ??= load(context);
  const buffer = await decoded;
  const output = new GainNode(context);
  let sounding: AudioBufferSourceNode | null = null;
  let startedAt = 0;

  const sound = (atSeconds: number, offset: number, loop: boolean) => {
    sounding?.stop(atSeconds);
    sounding = new AudioBufferSourceNode(context, {
      buffer,
      loop,
      loopStart: roomSeconds.from,
      loopEnd: roomSeconds.to,
    });
    sounding.connect(output);
    sounding.start(atSeconds, offset);
  };
  sound(context.currentTime, roomSeconds.from, true);

  return {
    node: output,
    granted: `mono · ${context.sampleRate / 1000} kHz`,
    onLost: () => undefined,
    start(atSeconds) {
      if (place >= buffer.duration - 0.5) place = 0;
      startedAt = atSeconds;
      sound(atSeconds, place, false);
    },
    stop(atSeconds) {
      place = Math.max(0, place + atSeconds - startedAt);
      sound(atSeconds, roomSeconds.from, true);
    },
    close() {
      sounding?.stop();
      output.disconnect();
    },
  };
}
