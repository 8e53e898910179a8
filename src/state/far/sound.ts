import { say } from '@/texts/say';
import { openMicrophone, type OpenInput } from '@/audio/inputs';
import { notify, notifyError } from '../page/notices';
import { currentEngine, type Engine } from '../hearing/engine';
import { useTransport } from '../hearing/transport';
import { useProject } from '../project/openProject';
import { ownSeat, seats, useFar } from './far';

/** How the sound of one line goes: what comes in, and what goes out. */
interface Patch {
  readonly seat: number;
  readonly outgoing: MediaStreamAudioDestinationNode;
  incoming: AudioNode | null;
  /** A browser lets a line's sound into the graph only while an element plays it. */
  element: HTMLAudioElement | null;
}

interface Desk {
  readonly engine: Engine;
  readonly merger: ChannelMergerNode;
  /** The studio's own voice, as it goes to the talents. */
  readonly talk: GainNode;
  readonly patches: Map<string, Patch>;
  own: OpenInput | null;
}

let desk: Desk | null = null;

/** The desk of this context; a new context gets a new one. */
function deskOf(engine: Engine): Desk {
  if (desk?.engine.context === engine.context) return desk;
  const { context } = engine;
  const talk = new GainNode(context, { gain: 0 });
  const merger = new ChannelMergerNode(context, { numberOfInputs: seats + 1 });
  desk = { engine, merger, talk, patches: new Map(), own: null };
  return desk;
}

/** What goes to somebody: all that is played here, the studio's voice, everybody else. */
export function patchOut(engine: Engine, key: string, seat: number): MediaStreamTrack {
  const current = deskOf(engine);
  const known = current.patches.get(key);
  if (known) return known.outgoing.stream.getAudioTracks()[0];
  const outgoing = new MediaStreamAudioDestinationNode(engine.context, { channelCount: 1 });
  engine.bus.connect(outgoing);
  current.talk.connect(outgoing);
  for (const { incoming } of current.patches.values()) incoming?.connect(outgoing);
  current.patches.set(key, { seat, outgoing, incoming: null, element: null });
  return outgoing.stream.getAudioTracks()[0];
}

/** Somebody's sound has come: it is heard here and by everybody else, and is an input. */
export function patchIn(key: string, stream: MediaStream): void {
  const patch = desk?.patches.get(key);
  if (!desk || !patch) return;
  letGo(patch);
  const { context } = desk.engine;
  patch.element = new Audio();
  patch.element.muted = true;
  patch.element.srcObject = stream;
  void patch.element.play().catch(() => undefined);
  const node = context.createMediaStreamSource(stream);
  // One voice, whatever the codec makes of it.
  const mono = new GainNode(context, { channelCount: 1, channelCountMode: 'explicit' });
  node.connect(mono);
  patch.incoming = mono;
  mono.connect(desk.merger, 0, patch.seat);
  mono.connect(context.destination);
  for (const [other, { outgoing }] of desk.patches) if (other !== key) mono.connect(outgoing);
}

function letGo(patch: Patch) {
  patch.incoming?.disconnect();
  patch.incoming = null;
  if (patch.element) patch.element.srcObject = null;
  patch.element = null;
}

/** Somebody's line is closed: nothing comes from there. */
export function unpatch(key: string): void {
  const patch = desk?.patches.get(key);
  if (desk && patch) letGo(patch);
}

/** All lines as one input, a channel each; what a line does not bring is silence. */
export function openFarInput(engine: Engine, roundTrip: () => number): OpenInput {
  const { merger } = deskOf(engine);
  return {
    node: merger,
    channels: seats + 1,
    granted: {
      label: '',
      rateHz: engine.context.sampleRate,
      channels: seats + 1,
      echoCancellation: false,
      noiseSuppression: false,
      autoGainControl: false,
    },
    get estimatedRoundTripFrames() {
      return roundTrip();
    },
    onLost: (handler) => (onClosed = handler),
    close: () => merger.disconnect(),
  };
}

/** Opens the studio's own microphone, for talking and as an input of its own, or closes it. */
export async function openOwnMicrophone(on: boolean): Promise<void> {
  const engine = currentEngine();
  if (!engine) return;
  const current = deskOf(engine);
  current.own?.close();
  current.own = null;
  useFar.setState({ ownMicrophone: false, talking: false });
  if (!on) return;
  try {
    const { input } = await openMicrophone(engine.context, '');
    const mono = new GainNode(engine.context, { channelCount: 1, channelCountMode: 'explicit' });
    input.node.connect(mono);
    mono.connect(current.talk);
    mono.connect(current.merger, 0, ownSeat);
    current.own = input;
    useFar.setState({ ownMicrophone: true, talking: true });
    setTalk();
  } catch (thrown) {
    notifyError(thrown, 'far');
  }
}

/**
 * The studio is heard while nothing is recorded; in an interview, where it has a track of its own, always.
 */
function setTalk() {
  if (!desk) return;
  const { talking, ownMicrophone } = useFar.getState();
  const { mode } = useTransport.getState();
  const quiet = mode === 'idle' || mode === 'playing';
  const hasTrack = useProject
    .getState()
    .project?.routes?.some(({ channel, armed }) => armed && channel === ownSeat);
  const heard = ownMicrophone && talking && (quiet || hasTrack);
  desk.talk.gain.setTargetAtTime(heard ? 1 : 0, desk.engine.context.currentTime, 0.01);
}

export function talk(talking: boolean): void {
  useFar.setState({ talking });
  setTalk();
}

/** Talks, or stops talking; the microphone is opened where it was not. */
export function toggleTalk(): void {
  const { status, ownMicrophone, talking } = useFar.getState();
  if (status !== 'open')
    return notify('info', say`There is no session with a talent far away. Open one first.`);
  if (ownMicrophone) talk(!talking);
  else void openOwnMicrophone(true);
}

useTransport.subscribe(setTalk);

/** Told when there is nothing behind the input any more. */
let onClosed: () => void = () => undefined;

export function unpatchAll(): void {
  if (!desk) return;
  for (const patch of desk.patches.values()) {
    letGo(patch);
    desk.engine.bus.disconnect(patch.outgoing);
    desk.talk.disconnect(patch.outgoing);
  }
  desk.patches.clear();
}

export function closeDesk(): void {
  if (!desk) return;
  unpatchAll();
  onClosed();
  onClosed = () => undefined;
  desk.own?.close();
  desk.merger.disconnect();
  desk = null;
}
