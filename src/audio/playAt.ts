/** Plays audio from an exact frame of the context on; null where there is nothing to play. */
export function playAt(
  context: AudioContext,
  output: AudioNode,
  channels: readonly Float32Array<ArrayBuffer>[],
  atFrame: number,
): AudioBufferSourceNode | null {
  const [first] = channels;
  if (!first || first.length === 0) return null;
  const { sampleRate } = context;
  const buffer = new AudioBuffer({ length: first.length, numberOfChannels: channels.length, sampleRate });
  channels.forEach((samples, channel) => buffer.copyToChannel(samples, channel));
  const node = new AudioBufferSourceNode(context, { buffer });
  node.connect(output);
  node.start(atFrame / sampleRate);
  return node;
}

const beepSeconds = 0.09;
const beepHz = 880;

/**
 * Beeps a second apart, the last one a second before the end: the talent speaks where the next would fall
 * (*common practice*).
 */
export function countIn(beats: number, rateHz: number): Float32Array<ArrayBuffer> {
  const samples = new Float32Array(beats * rateHz);
  const frames = Math.round(beepSeconds * rateHz);
  for (let beat = 0; beat < beats; beat++) {
    for (let i = 0; i < frames; i++) {
      const shape = Math.min(1, i / 200, (frames - i) / 200);
      samples[beat * rateHz + i] = 0.2 * shape * Math.sin((2 * Math.PI * beepHz * i) / rateHz);
    }
  }
  return samples;
}
