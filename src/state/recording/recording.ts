import { say } from '@/texts/say';
import { contextFrame } from '@/audio/contextFrame';
import { countIn, playAt } from '@/audio/playAt';
import { assert, ParolaError } from '@/core/base/errors';
import { secondsToFrames } from '@/core/base/units';
import { within } from '@/core/base/waiting';
import type { CuePlacement } from '@/core/timeline/cueTakes';
import { placementStart, punchOf, type Placement } from '@/core/timeline/takes';
import { newId } from '@/storage/projects';
import type { TakeResult } from '@/workers/recorderProtocol';
import { beginFar, closeFar, endFar, overLine } from '../far/takes';
import { currentEngine, startEngine, stopEngine, type Engine } from '../hearing/engine';
import { LiveTake } from '../hearing/liveTake';
import { endPlaying, play, renderPart } from '../hearing/playing';
import { useTransport } from '../hearing/transport';
import { notify, notifyError } from '../page/notices';
import { chooseCue, stepToUndone } from '../cues/cues';
import { rateOfProject, useProject } from '../project/openProject';
import { cueSettings, recordSettings } from '../project/settings';
import { beginLine } from '../script/lines';
import { partClock, setCaret, usePart } from '../sheet/part';
import { followLostInputs, inputName, resetInput, useInput, type ArmedTrack } from './input';
import { closeInputs, openedInput } from './openInputs';
import { companionsOf, prepareCompanions } from './companions';
import { placeTake } from './placing';
import { nextCueTake } from './cuePlan';
import { armedToRecord, nextTake, placementNow, recordIntent } from './recordPlan';
import { endRecording, startRecording, stopRecorder, type RecordedSource } from './recorder';
import { roundTrip } from './roundTrip';

/** Captured before a take begins and after it ends, so that joins can be moved into it. */
const handleSeconds = { before: 1, after: 0.5 };
/** Time to hand a run-up to the browser, and to tell a simulated input when to begin. */
const leadSeconds = 0.15;
const countInBeats = 3;
/** Heard after a patch has ended by itself. */
const runOutSeconds = 2;
/** A take whose first frame has not come so long after it was due has no input. */
const spareMs = 4000;
/** Getting ready to record takes no longer, run-up apart. */
const readyMs = 20_000;

const set = useTransport.setState;
const get = useTransport.getState;

/** The take that is being made, from the key that started it until it stands in its part. */
export interface RunningTake {
  live: LiveTake;
  source: RecordedSource;
  tracks: readonly ArmedTrack[];
  placement: Placement;
  handleFrames: number;
  /** Context frame of its first frame. */
  atFrame: number;
  /** What is played with it: the run-up, the other tracks and the guide, the run-out of a patch. */
  played: { stop(): void }[];
  done: Promise<void>;
  finish: () => void;
}

let running: RunningTake | null = null;

export const runningTake = () => running;

/** Makes a take the running one without a moment between it and the one before. */
export const runOn = (next: RunningTake) => (running = next);

// — Beginning —

/** Records in the mode that is set, as the button says; a take that is being made is not disturbed. */
export async function record(): Promise<void> {
  if (running) return;
  if (get().mode === 'playing') endPlaying();
  const intent = recordIntent();
  if (!intent.can) return notify('info', say`Cannot record: ${intent.label}.`);
  const placement = placementNow();
  assert(placement, 'the intent has looked for one');
  await begin(placement);
}

/** A take to be made of some tracks of a part. */
export function newTake(
  partId: string,
  placement: Placement,
  startFrame: number,
  tracks: readonly ArmedTrack[] = armedToRecord(),
): RunningTake {
  const cue = placement.mode === 'cue' ? cueOf(placement.cue) : undefined;
  const take = cue ? nextCueTake(cue.id) : nextTake(partId);
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
    projectIds: [useProject.getState().project?.id ?? ''],
    partId,
    trackId: tracks[0].id,
    trackIds: tracks.map(({ id }) => id),
    take,
    name: cue ? say`Cue ${cue.number}, take ${take}` : say`Take ${take}`,
    ...(cue && { cue: cue.id }),
    rateHz: rateOfProject(),
    channels: tracks.length,
    state: 'recording' as const,
    startedAt: Date.now(),
    overrunFrames: 0,
    input: choice ? inputName(choice) : '',
    placement,
  };
  return { live, source, tracks, placement, handleFrames: 0, atFrame: 0, played: [], done, finish };
}

export async function begin(placement: Placement): Promise<void> {
  const { id, timeline } = usePart.getState();
  assert(id, 'a part is open');
  const rate = rateOfProject();
  const mine = newTake(id, placement, placementStart(timeline, placement));
  // Taken at once, so that a second press means stop and not a second take.
  running = mine;
  const lead = leadInSeconds(placement);
  const fromFrame = punchOf(timeline, placement);
  const rolling = { until: performance.now() / 1000 + lead, seconds: lead, fromFrame };
  const cue = placement.mode === 'cue' ? cueOf(placement.cue) : undefined;
  set({
    mode: lead > 0 ? 'rolling' : 'recording',
    live: lead > 0 ? null : mine.live,
    rolling: lead > 0 ? rolling : null,
    cueRun: cue ? { cue, dry: false, beginsAt: null } : null,
  });
  try {
    const prepared = prepare(mine, lead);
    const { engine, runUp, companions, roundTripFrames } = await within(
      prepared,
      readyMs,
      say`Nothing was recorded: the browser did not get ready in time. Try again.`,
    );
    const { context, bus } = engine;
    const input = openedInput();
    if (running !== mine) return;
    if (!input) throw new ParolaError('device-lost', say`The input is not open any more. Choose it again.`);
    const soon = lead > 0 || companions || input.start ? leadSeconds : 0;
    /** The frame at which the caret is played; a reader who follows it is captured a round trip later. */
    const punch = contextFrame(context, soon) + (runUp?.[0].length ?? 0);
    const early = fromFrame - mine.live.startFrame;
    mine.atFrame = (lead > 0 || companions ? punch + roundTripFrames : punch) - early;
    if (cue) set({ cueRun: { cue, dry: false, beginsAt: punch / rate } });
    if (runUp) {
      set({ rolling: { ...rolling, until: performance.now() / 1000 + punch / rate - context.currentTime } });
      const sound = playAt(context, bus, runUp, punch - runUp[0].length);
      if (sound) mine.played.push(sound);
    }
    if (companions) mine.played.push(companions.start(engine, punch));
    input.start?.(punch, cue);
    tell(mine, (mine.atFrame / rate - context.currentTime) * 1000 + spareMs);
    await planEnd(engine, mine, punch - early);
    setCaret(fromFrame);
  } catch (error) {
    if (running === mine) fail(mine, error);
  }
}

const cueOf = (id: string) => usePart.getState().timeline.cueSheet?.cues.find((cue) => cue.id === id);

async function prepare({ placement, live }: RunningTake, lead: number) {
  const engine = await startEngine(rateOfProject());
  const { timeline } = usePart.getState();
  const runUp = lead > 0 ? await renderRunUp(punchOf(timeline, placement), lead, runUpOf(placement)) : null;
  const armed = new Set(live.trackIds);
  const heard = companionsOf(placement, armed);
  const companions = heard && (await prepareCompanions(heard, armed));
  const { frames: roundTripFrames } = await roundTrip();
  return { engine, runUp, companions, roundTripFrames };
}

/** Nothing comes of a take: what it may have begun is let go of, and the next one can be recorded. */
function fail(mine: RunningTake, error: unknown) {
  silence(mine);
  if (mine.atFrame > 0) endRecording(mine.live.sourceId, 0, 0);
  mine.finish();
  running = null;
  set({ mode: 'idle', live: null, rolling: null, cueRun: null });
  notifyError(error);
}

/** What a run-up has: the sheet before the punch, and beeps. */
interface RunUp {
  readonly sheet: boolean;
  readonly beeps: boolean;
}

export const runUpOf = ({ mode }: Pick<Placement, 'mode'>): RunUp => ({
  sheet: mode !== 'continue',
  beeps: mode === 'cue' ? cueSettings().beeps : recordSettings().countIn === 'beeps',
});

function leadInSeconds(placement: Placement): number {
  if (placement.mode === 'cue') return cueSettings().runUpSeconds;
  const { runUpSeconds, countIn: counting } = recordSettings();
  const count = counting === 'none' ? 0 : countInBeats;
  return placement.mode === 'continue' ? count : Math.max(runUpSeconds, count);
}

/**
 * What is heard before the punch, ending exactly there: the last seconds before it, under beeps where they
 * are wanted.
 */
export async function renderRunUp(
  punch: number,
  lead: number,
  { sheet, beeps: counted }: RunUp,
): Promise<Float32Array<ArrayBuffer>[]> {
  const rate = rateOfProject();
  const frames = secondsToFrames(lead, rate);
  const clock = partClock();
  const end = clock.heardOnward(punch);
  const from = Math.max(0, end - frames);
  const audible = sheet ? Math.max(0, Math.min(end, clock.heardFrames) - from) : 0;
  const channels = (await renderPart('cueing', from, audible)).map((samples) => {
    const padded = new Float32Array(frames);
    padded.set(samples, from - end + frames);
    return padded;
  });
  if (counted) {
    const beeps = countIn(countInBeats, rate);
    const from = frames - beeps.length;
    for (const samples of channels) beeps.forEach((value, i) => (samples[from + i] += value));
  }
  return channels;
}

/** Asks the recorder for a take, and whoever is far away; it has to have begun within `waitMs`. */
export function tell(mine: RunningTake, waitMs: number): void {
  const { live, tracks, atFrame } = mine;
  const [{ input }] = tracks;
  const channels = tracks.map(({ channel }) => channel);
  const line = useInput.getState().choice?.kind === 'far' ? overLine(live.sourceId, channels, atFrame) : null;
  // Whoever is far away is what it was recorded with.
  const over = line && { line, input: line.voices.map(({ name }) => name).join(', ') };
  const source = (mine.source = { ...mine.source, ...over });
  beginFar(source);
  const handleFrames = secondsToFrames(handleSeconds.before, source.rateHz);
  startRecording(
    { source, input, channels, atFrame, handleFrames, waitMs },
    {
      started(frames) {
        mine.handleFrames = frames;
        if (running !== mine) return;
        if (get().mode === 'rolling') set({ mode: 'recording', live, rolling: null });
        if (usePart.getState().id === source.partId) beginReading(mine);
      },
      peaks: (peaks, frames, overruns) => live.append(peaks, frames, overruns),
      found: (findings) => live.findings.push(...findings),
      signal(channel, signal) {
        live.signals[channel] = signal;
        if (signal !== 'sound') warnOf(signal, tracks[channel], tracks.length);
      },
      ended: (take, failure) => void end(mine, take, failure),
    },
  );
}

/**
 * The line of the script that is current is read from the take's beginning on; told once, in the part that
 * the take is for.
 */
export function beginReading({ live }: RunningTake): void {
  if (live.markIds.size === 0) beginLine(live.startFrame);
}

/**
 * With several microphones one of them may well be quiet: only one that gives nothing at all is told of then.
 */
function warnOf(signal: 'quiet' | 'none', track: ArmedTrack | undefined, count: number) {
  if (signal === 'none') {
    notify(
      'warning',
      say`Nothing comes from the input for ${track?.name ?? say`the track`}: is the microphone muted or unplugged? The recording goes on.`,
      'booth',
    );
  } else if (count === 1) {
    notify('info', say`Nothing has been said for 20 seconds. The recording goes on.`);
  }
}

/** Ends a take at a context frame, which may lie ahead. */
export function stopAt({ live, source }: RunningTake, frame: number): void {
  endRecording(live.sourceId, frame, secondsToFrames(handleSeconds.after, source.rateHz));
  endFar(source, frame);
}

/** A patch and a fixed length end by themselves; after a patch the sheet is heard going on. */
async function planEnd(engine: Engine, mine: RunningTake, punch: number) {
  const { placement, atFrame } = mine;
  const { fixedSeconds } = recordSettings();
  const rate = rateOfProject();
  const patch = placement.mode === 'patch' && placement.length === 'selection' ? placement : null;
  const end = placement.mode === 'cue' ? placement : patch;
  const frames = end
    ? end.to && end.to - end.from
    : fixedSeconds
      ? secondsToFrames(fixedSeconds, rate)
      : null;
  if (frames === null) return;
  stopAt(mine, atFrame + frames);
  openedInput()?.stop?.(punch + frames);
  if (!patch) return;
  const clock = partClock();
  const from = clock.sheetToHeard(patch.to);
  const length = Math.min(secondsToFrames(runOutSeconds, rate), clock.heardFrames - from);
  if (length <= 0) return;
  // A take goes on without what would be heard after it.
  const runOut = await renderPart('cueing', from, length).catch(() => []);
  const sound = running === mine ? playAt(engine.context, engine.bus, runOut, punch + frames) : null;
  if (sound) mine.played.push(sound);
}

// — Ending —

function silence(mine: RunningTake) {
  for (const sound of mine.played) sound.stop();
  mine.played = [];
}

/**
 * Ends the take now, or calls the run-up off. Resolves when it stands in its part; what is not answered in
 * time is told by the recorder.
 */
export async function stopRecording(): Promise<void> {
  const mine = running;
  if (!mine || (get().mode !== 'recording' && get().mode !== 'rolling')) return mine?.done;
  set({ mode: 'finishing', rolling: null });
  silence(mine);
  if (mine.atFrame === 0) {
    // The key came before the take had even been asked for.
    running = null;
    set({ mode: 'idle', live: null, cueRun: null });
    return mine.finish();
  }
  const engine = currentEngine();
  // Without an engine nothing is captured any more: the recorder ends the take with what there is.
  if (!engine) return mine.done;
  const now = contextFrame(engine.context);
  openedInput()?.stop?.(now);
  stopAt(mine, now);
  await mine.done;
}

/** Called once for each take, when its audio is on disk. */
async function end(mine: RunningTake, take: TakeResult, failure: string | null) {
  const wasCurrent = running === mine;
  const wasStopped = get().mode === 'finishing';
  if (wasCurrent) set({ mode: 'finishing', rolling: null });
  silence(mine);
  try {
    if (take.length > 0) await placeTake({ ...mine, take });
    closeFar(mine.source, take.length);
    if (failure)
      notify(
        'error',
        say`Recording stopped: ${failure} ${take.length > 0 ? say`Everything up to then is kept.` : say`Nothing had been recorded yet.`}`,
        'booth',
      );
  } catch (error) {
    notifyError(error, 'booth');
  }
  if (wasCurrent) {
    running = null;
    set({ mode: 'idle', live: null, cueRun: null });
    const { placement, live } = mine;
    if (usePart.getState().id === mine.source.partId)
      setCaret(placement.mode === 'cue' ? placement.in : live.startFrame + take.length);
    if (!wasStopped && !failure && placement.mode === 'cue') afterCue(placement);
  }
  mine.finish();
}

/** What follows when a take of a cue has ended by itself. */
function afterCue({ cue, out }: CuePlacement) {
  const { then } = cueSettings();
  if (then === 'next') stepToUndone();
  else if (then === 'play') {
    setCaret(out);
    void play();
  } else chooseCue(cue);
}

followLostInputs(stopRecording);

export async function closeTransport(): Promise<void> {
  endPlaying();
  await stopRecording();
  await running?.done;
  closeInputs();
  stopRecorder();
  await stopEngine();
  resetInput();
  set({ mode: 'idle', live: null, rolling: null, playingTake: null, cueRun: null });
}
