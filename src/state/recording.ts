import { countIn, playAt } from '@/audio/cue';
import { assert, toParolaError } from '@/core/base/errors';
import { secondsToFrames } from '@/core/base/units';
import { placementStart, type Placement } from '@/core/timeline/takes';
import { newId } from '@/storage/projects';
import type { SourceRecord } from '@/storage/schema';
import type { TakeResult } from '@/workers/recorderProtocol';
import { startEngine, stopEngine, tellRecorder, type Engine } from './engine';
import { armedNow, inputName, onInputLost, resetInput, useInput } from './input';
import { beginLine } from './lines';
import { LiveTake } from './liveTake';
import { notify, notifyError } from './notices';
import { setCaret, usePart } from './part';
import { placeTake } from './placing';
import { endPlaying, renderPart } from './playing';
import { addPart, recordSettings, selectPart } from './projectActions';
import { nextTake, placementNow, recordIntent } from './recordPlan';
import { forgetRecordings, startRecording } from './recorder';
import { roundTrip } from './roundTrip';
import { punchBefore } from './sentenceSteps';
import { rateOfProject, useSession } from './session';
import { useTransport } from './transport';

/** Captured before a take begins and after it ends, so that joins can be moved into it. */
const handleSeconds = { before: 1, after: 0.5 };
/** Time to hand a run-up to the browser, and to tell a simulated input when to begin. */
const leadSeconds = 0.15;
const countInBeats = 3;
/** Heard after a patch has ended by itself. */
const runOutSeconds = 2;

const set = useTransport.setState;
const get = useTransport.getState;

/** The take that is being made, from the key that started it until it stands in its part. */
interface Session {
  live: LiveTake;
  source: Omit<SourceRecord, 'frames' | 'handleFrames'>;
  placement: Placement;
  handleFrames: number;
  /** Context frame of its first frame. */
  atFrame: number;
  /** What is played with it: the run-up, and the run-out of a patch. */
  cues: AudioBufferSourceNode[];
  done: Promise<void>;
  finish: () => void;
}

let session: Session | null = null;
/** While sentences are retaken one after another: where the first one was given up, and how many further back. */
let retaking: { head: number; back: number } | null = null;

// — Beginning —

/** Records in the mode that is set, as the button says. */
export async function record(): Promise<void> {
  if (get().mode === 'playing') endPlaying();
  const intent = recordIntent();
  if (!intent.can) return notify('info', `Cannot record: ${intent.label}.`);
  const placement = placementNow();
  assert(placement, 'the intent has looked for one');
  retaking = null;
  await begin(placement);
}

function newSession(partId: string, placement: Placement, startFrame: number): Session {
  const tracks = armedNow();
  const take = nextTake(partId);
  const live = new LiveTake(
    newId(),
    take,
    startFrame,
    tracks.map(({ id }) => id),
  );
  const { choice } = useInput.getState();
  let finish: () => void = () => undefined;
  const done = new Promise<void>((resolve) => (finish = resolve));
  const source = {
    id: live.sourceId,
    projectIds: [useSession.getState().project?.id ?? ''],
    partId,
    trackId: tracks[0].id,
    trackIds: tracks.map(({ id }) => id),
    take,
    name: `Take ${take}`,
    rateHz: rateOfProject(),
    channels: tracks.length,
    state: 'recording' as const,
    startedAt: Date.now(),
    overrunFrames: 0,
    input: choice ? inputName(choice) : '',
    placement,
  };
  return { live, source, placement, handleFrames: 0, atFrame: 0, cues: [], done, finish };
}

async function begin(placement: Placement): Promise<void> {
  const { id, timeline } = usePart.getState();
  assert(id, 'a part is open');
  const rate = rateOfProject();
  const mine = newSession(id, placement, placementStart(timeline, placement));
  // Taken at once, so that a second press means stop and not a second take.
  session = mine;
  const lead = leadInSeconds(placement);
  const rolling = { until: performance.now() / 1000 + lead, seconds: lead, fromFrame: mine.live.startFrame };
  set({
    mode: lead > 0 ? 'rolling' : 'recording',
    live: lead > 0 ? null : mine.live,
    rolling: lead > 0 ? rolling : null,
  });
  try {
    const engine = await startEngine(rate);
    const runUp = lead > 0 ? await renderRunUp(placement, lead) : null;
    const { frames: roundTripFrames } = await roundTrip();
    const { context, bus, input } = engine;
    assert(input, 'an input is open');
    if (session !== mine) return;
    const soon = lead > 0 || input.start ? leadSeconds : 0;
    /** The frame at which the caret is played; a reader who follows it is captured a round trip later. */
    const punch = Math.ceil((context.currentTime + soon) * rate) + (runUp?.[0].length ?? 0);
    mine.atFrame = lead > 0 ? punch + roundTripFrames : punch;
    if (runUp) {
      set({ rolling: { ...rolling, until: performance.now() / 1000 + punch / rate - context.currentTime } });
      const cue = playAt(context, bus, runUp, punch - runUp[0].length);
      if (cue) mine.cues.push(cue);
    }
    input.start?.(punch);
    tell(engine, mine);
    await planEnd(engine, mine, punch);
    setCaret(mine.live.startFrame);
  } catch (error) {
    if (session === mine) fail(error);
  }
}

function fail(error: unknown) {
  session?.finish();
  session = null;
  set({ mode: 'idle', live: null, rolling: null });
  notifyError(error);
}

function leadInSeconds(placement: Placement): number {
  const { runUpSeconds, countIn: counting } = recordSettings();
  const count = counting === 'none' ? 0 : countInBeats;
  return placement.mode === 'continue' ? count : Math.max(runUpSeconds, count);
}

/** What is heard before the punch, ending exactly there: the last seconds before it, under beeps where they are wanted. */
async function renderRunUp(placement: Placement, lead: number): Promise<Float32Array<ArrayBuffer>[]> {
  const rate = rateOfProject();
  const { timeline } = usePart.getState();
  const { table } = timeline.tracks[0];
  const frames = secondsToFrames(lead, rate);
  const end = table.sheetToHeard(placementStart(timeline, placement));
  const audible = placement.mode === 'continue' ? 0 : Math.min(frames, end);
  const channels = (await renderPart(end - audible, audible)).map((samples) => {
    const padded = new Float32Array(frames);
    padded.set(samples, frames - audible);
    return padded;
  });
  if (recordSettings().countIn === 'beeps') {
    const beeps = countIn(countInBeats, rate);
    const from = frames - beeps.length;
    for (const samples of channels) beeps.forEach((value, i) => (samples[from + i] += value));
  }
  return channels;
}

function tell(engine: Engine, mine: Session) {
  const { live, source } = mine;
  const inputs = armedNow().map(({ channel }) => channel);
  const handleFrames = secondsToFrames(handleSeconds.before, source.rateHz);
  startRecording(
    engine,
    { source, inputs, atFrame: mine.atFrame, handleFrames },
    {
      started(frames) {
        mine.handleFrames = frames;
        if (session !== mine) return;
        if (get().mode === 'rolling') set({ mode: 'recording', live, rolling: null });
        if (live.markIds.size === 0) beginLine(live.startFrame);
      },
      peaks: (peaks, frames, overruns) => live.append(peaks, frames, overruns),
      found: (findings) => live.findings.push(...findings),
      signal(channel, signal) {
        live.signals[channel] = signal;
        if (signal !== 'sound') warnOf(signal, live.trackIds[channel]);
      },
      ended: (take, failure) => void end(mine, take, failure),
    },
  );
}

/** With several microphones one of them may well be quiet: only one that gives nothing at all is told of then. */
function warnOf(signal: 'quiet' | 'none', trackId: string) {
  const { tracks } = usePart.getState().timeline;
  const name = tracks.find(({ id }) => id === trackId)?.name ?? 'the track';
  if (signal === 'none') {
    notify(
      'warning',
      `Nothing comes from the input for ${name}: is the microphone muted or unplugged? The recording goes on.`,
    );
  } else if (armedNow().length === 1) {
    notify('info', 'Nothing has been said for 20 seconds. The recording goes on.');
  }
}

/** A patch and a fixed length end by themselves; after a patch the sheet is heard going on. */
async function planEnd(engine: Engine, mine: Session, punch: number) {
  const { placement, atFrame, live } = mine;
  const { fixedSeconds } = recordSettings();
  const rate = rateOfProject();
  const exact = placement.mode === 'patch' && placement.length === 'selection';
  const frames = exact
    ? placement.to - placement.from
    : fixedSeconds
      ? secondsToFrames(fixedSeconds, rate)
      : null;
  if (frames === null) return;
  tellRecorder(engine, {
    type: 'stop',
    sourceId: live.sourceId,
    atFrame: atFrame + frames,
    handleFrames: secondsToFrames(handleSeconds.after, rate),
  });
  engine.input?.stop?.(punch + frames);
  if (!exact) return;
  const { table } = usePart.getState().timeline.tracks[0];
  const from = table.sheetToHeard(placement.to);
  const length = Math.min(secondsToFrames(runOutSeconds, rate), table.heardFrames - from);
  const cue =
    length > 0 ? playAt(engine.context, engine.bus, await renderPart(from, length), punch + frames) : null;
  if (cue) mine.cues.push(cue);
}

// — Ending —

function silenceCues(mine: Session) {
  for (const cue of mine.cues) cue.stop();
  mine.cues = [];
}

/** Ends the take now, or calls the run-up off. Resolves when it stands in its part. */
export async function stopRecording(): Promise<void> {
  const mine = session;
  if (!mine || (get().mode !== 'recording' && get().mode !== 'rolling')) return mine?.done;
  set({ mode: 'finishing', rolling: null });
  try {
    const engine = await startEngine(rateOfProject());
    const now = Math.ceil(engine.context.currentTime * engine.context.sampleRate);
    silenceCues(mine);
    engine.input?.stop?.(now);
    if (mine.atFrame === 0) {
      // The key came before the take had even been asked for.
      session = null;
      set({ mode: 'idle', live: null });
      return mine.finish();
    }
    tellRecorder(engine, {
      type: 'stop',
      sourceId: mine.live.sourceId,
      atFrame: now,
      handleFrames: secondsToFrames(handleSeconds.after, engine.context.sampleRate),
    });
  } catch (error) {
    fail(error);
  }
  await mine.done;
}

/** Called once for each take, when its audio is on disk. */
async function end(mine: Session, take: TakeResult, failure: string | null) {
  const wasCurrent = session === mine;
  if (wasCurrent) set({ mode: 'finishing', rolling: null });
  try {
    if (take.length > 0) await placeTake({ ...mine, take });
    if (failure) notify('error', `Recording stopped: ${failure} Everything up to then is kept.`);
  } catch (error) {
    notify('error', toParolaError(error).message);
  }
  if (wasCurrent) {
    session = null;
    set({ mode: 'idle', live: null });
    setCaret(mine.live.startFrame + take.length);
  }
  mine.finish();
}

onInputLost(() => void stopRecording());

// — Retaking sentence by sentence —

/**
 * Stops, goes back to the start of the sentence that is being read, and punches in there after a run-up; during that run-up, one sentence
 * further back. What was read stays in the stack of takes.
 */
export async function retakeSentence(): Promise<void> {
  const { mode, live } = get();
  const mine = session;
  if (!mine || (mode !== 'recording' && mode !== 'rolling')) return;
  if (mode === 'recording' && live) retaking = { head: live.startFrame + live.frames, back: 0 };
  else if (retaking) retaking = { ...retaking, back: retaking.back + 1 };
  else retaking = { head: mine.live.startFrame, back: 0 };
  const { head, back } = retaking;
  const before = mine.placement;
  await stopRecording();
  const punch = await punchBefore(head, back, mine.source.trackId);
  if (get().mode !== 'idle' || recordIntent().can === false) return;
  await begin(retakePlacement(before, punch, head));
}

/** A sentence of an insert or patch is replaced inside it: what follows on the sheet is not overwritten. */
function retakePlacement(before: Placement, punch: number, head: number): Placement {
  switch (before.mode) {
    case 'continue':
    case 'retake':
      return { mode: 'retake', at: punch };
    case 'insert':
      return { mode: 'patch', from: punch, to: Math.max(punch, head), length: 'reading' };
    case 'patch':
      return before.length === 'selection'
        ? { ...before, from: Math.min(punch, before.to) }
        : { ...before, from: punch, to: Math.max(punch, head) };
  }
}

// — Several parts in one go —

/** Ends the take at this moment and goes on with the next part, without a sample between them lost. */
export async function startNextPart(): Promise<void> {
  const before = session;
  const { parts } = useSession.getState();
  const { id } = usePart.getState();
  if (!before || get().mode !== 'recording') return;
  const index = parts.findIndex((part) => part.id === id);
  const engine = await startEngine(rateOfProject());
  const { context } = engine;
  const now = Math.ceil(context.currentTime * context.sampleRate);
  const after = secondsToFrames(handleSeconds.after, context.sampleRate);
  const following = parts[index + 1]?.id ?? (await addPart(`Part ${parts.length + 1}`, false));
  if (!following) return;
  const end = useSession.getState().parts.find((part) => part.id === following);
  const length = end?.timeline.tracks[0].pieces.reduce((sum, piece) => sum + piece.length, 0) ?? 0;
  const next = newSession(following, { mode: 'continue' }, length);
  next.atFrame = now;
  session = next;
  tellRecorder(engine, { type: 'stop', sourceId: before.live.sourceId, atFrame: now, handleFrames: after });
  tell(engine, next);
  await before.done;
  await selectPart(following);
  if (session === next && get().mode === 'recording') set({ live: next.live });
}

export async function closeTransport(): Promise<void> {
  endPlaying();
  await stopRecording();
  await session?.done;
  await stopEngine();
  forgetRecordings();
  resetInput();
  set({ mode: 'idle', live: null, rolling: null, playingTake: null });
}
