import { create } from 'zustand';
import { Player } from '@/audio/player';
import { assert, toParolaError } from '@/core/base/errors';
import { secondsToFrames } from '@/core/base/units';
import { appendRecording } from '@/core/timeline/edits';
import { mixChunk } from '@/core/timeline/render';
import { heardFramesOf, sheetFramesOf } from '@/core/timeline/timeline';
import { BlockReader } from '@/storage/blockReader';
import { newId } from '@/storage/projects';
import type { InputChoice, SourceRecord } from '@/storage/schema';
import type { FromRecorder, TakeResult, ToRecorder } from '@/workers/recorderProtocol';
import { closeInput, onRecorderMessage, openInput, startEngine, stopEngine } from './engine';
import { LiveTake } from './liveTake';
import { notify, notifyError } from './notices';
import { edit, setCaret, usePart } from './part';
import { setInputChoice } from './projectActions';
import { isReadOnly, rateOfProject, rememberSource, sourceList, useSession } from './session';

/** Captured before a take begins and after it ends, so that joins can reach into it. */
const handleSeconds = { before: 0.5, after: 0.25 };
/** The practice reader is told this long before it has to begin. */
const readerLeadSeconds = 0.05;

interface Transport {
  mode: 'idle' | 'playing' | 'recording' | 'finishing';
  input: 'none' | 'opening' | 'open' | 'failed';
  choice: InputChoice | null;
  /** What the device grants, or why it could not be opened. */
  inputDetail: string;
  live: LiveTake | null;
}

export const useTransport = create<Transport>(() => ({
  mode: 'idle',
  input: 'none',
  choice: null,
  inputDetail: '',
  live: null,
}));

const set = useTransport.setState;
const get = useTransport.getState;

let player: Player | null = null;
let playedFrom = 0;
let source: SourceRecord | null = null;

/** Opens an input the user chose. It is kept with the project once it works. */
export async function chooseInput(choice: InputChoice): Promise<void> {
  if (get().mode === 'recording' || get().mode === 'finishing') return;
  set({ input: 'opening', choice, inputDetail: '' });
  try {
    const { choice: granted, granted: detail } = await openInput(choice, rateOfProject(), inputLost);
    set({ input: 'open', choice: granted, inputDetail: detail });
    setInputChoice(granted);
  } catch (thrown) {
    const error = toParolaError(thrown);
    set({ input: 'failed', inputDetail: error.message });
    notify('error', error.message);
  }
}

function inputLost() {
  const { choice, mode } = get();
  const name = choice?.kind === 'microphone' ? choice.label : 'The input';
  set({ input: 'failed', inputDetail: `${name} is gone. Plug it in and choose it again.` });
  void closeInput();
  if (mode === 'recording') {
    void stopRecording();
    notify(
      'error',
      `${name} went away while recording. Everything up to then is kept. Plug it in and choose it again to go on.`,
    );
  } else notify('warning', `${name} went away. Plug it in and choose it again, or choose another input.`);
}

export async function closeTransport(): Promise<void> {
  player?.stop();
  if (get().mode === 'recording') await stopRecording();
  await finished;
  await stopEngine();
  set({ mode: 'idle', input: 'none', choice: null, inputDetail: '', live: null });
}

// — Playing —

/** Plays heard audio from the caret to the end of the part; from the start when the caret stands at the end. */
export async function play(): Promise<void> {
  const { timeline, caret } = usePart.getState();
  if (get().mode !== 'idle' || heardFramesOf(timeline) === 0) return;
  const rate = rateOfProject();
  const { table } = timeline.tracks[0];
  const heard = table.sheetToHeard(caret);
  const from = heard >= table.heardFrames ? 0 : heard;
  playedFrom = caret;
  set({ mode: 'playing' });
  try {
    const { context } = await startEngine(rate);
    const reader = new BlockReader(sourceList());
    const tables = timeline.tracks.map((track) => track.table);
    const settings = { joinFrames: joinFrames() };
    const render = (at: number, frames: number) => mixChunk(tables, at, frames, reader, settings);
    player = new Player(context, { from, to: table.heardFrames }, render, notifyError);
    await player.ended;
    endPlaying();
  } catch (error) {
    set({ mode: 'idle' });
    notifyError(error);
  }
}

let returning = false;

function endPlaying() {
  if (!player) return;
  const { table } = usePart.getState().timeline.tracks[0];
  const at = returning ? playedFrom : table.heardToSheet(player.frame);
  player = null;
  returning = false;
  set({ mode: 'idle' });
  setCaret(at);
}

/** Stops playing where it is, or back where it began. */
export function stopPlaying(back = false): void {
  returning = back;
  player?.stop();
}

export const joinFrames = () =>
  secondsToFrames((useSession.getState().project?.joinMs ?? 10) / 1000, rateOfProject());

/** The sheet frame that is heard or recorded now, or null. */
export function headFrame(): number | null {
  if (player) return usePart.getState().timeline.tracks[0].table.heardToSheet(player.frame);
  const { live } = get();
  return live ? live.startFrame + live.frames : null;
}

// — Recording —

let finished: Promise<void> = Promise.resolve();
let finish: () => void = () => undefined;

/** What Record will do, or why it cannot; shown on the button before it is pressed. */
export function recordIntent(): { can: boolean; label: string } {
  const { input, mode } = get();
  if (isReadOnly()) return { can: false, label: 'read-only here' };
  if (mode === 'finishing') return { can: false, label: 'storing the take' };
  if (!usePart.getState().id) return { can: false, label: 'add a part first' };
  if (input === 'opening') return { can: false, label: 'opening the input' };
  if (input !== 'open') return { can: false, label: 'choose an input first' };
  const { tracks } = usePart.getState().timeline;
  const where = tracks.length > 1 ? `at the end · ${tracks[0].name}` : 'at the end';
  return { can: true, label: `take ${nextTake()} · ${where}` };
}

const nextTake = () =>
  sourceList()
    .filter(({ partId }) => partId === usePart.getState().id)
    .reduce((highest, { take }) => Math.max(highest, take), 0) + 1;

/** Continue: records at the end of the part until stopped. */
export async function record(): Promise<void> {
  if (get().mode === 'playing') {
    stopPlaying();
    endPlaying();
  }
  const intent = recordIntent();
  if (!intent.can) return notify('info', `Cannot record: ${intent.label}.`);
  const { id, timeline } = usePart.getState();
  assert(id, 'a part is open');
  const rate = rateOfProject();
  // Taken at once, so that a second press means stop and not a second take.
  const take = nextTake();
  set({ mode: 'recording', live: new LiveTake(newId(), take, sheetFramesOf(timeline)) });
  finished = new Promise((resolve) => (finish = resolve));
  try {
    const { context, recorder, input } = await startEngine(rate);
    assert(input, 'an input is open');
    const { live, choice } = get();
    assert(live, 'a take is live');
    const lead = input.start ? readerLeadSeconds : 0;
    const atFrame = Math.ceil((context.currentTime + lead) * rate);
    source = {
      id: live.sourceId,
      projectIds: [useSession.getState().project?.id ?? ''],
      partId: id,
      trackId: timeline.tracks[0].id,
      take,
      name: `Take ${take}`,
      rateHz: rate,
      channels: 1,
      state: 'recording',
      frames: 0,
      handleFrames: 0,
      startedAt: Date.now(),
      overrunFrames: 0,
      input: choice?.kind === 'microphone' ? choice.label : 'Practice reader',
    };
    input.start?.(atFrame / rate);
    send(recorder, {
      type: 'start',
      source,
      atFrame,
      handleFrames: secondsToFrames(handleSeconds.before, rate),
    });
    setCaret(live.startFrame);
  } catch (error) {
    set({ mode: 'idle', live: null });
    finish();
    notifyError(error);
  }
}

export async function stopRecording(): Promise<void> {
  if (get().mode !== 'recording') return;
  set({ mode: 'finishing' });
  const { context, recorder, input } = await startEngine(rateOfProject());
  const atFrame = Math.ceil(context.currentTime * context.sampleRate);
  input?.stop?.(context.currentTime);
  send(recorder, {
    type: 'stop',
    atFrame,
    handleFrames: secondsToFrames(handleSeconds.after, context.sampleRate),
  });
  await finished;
}

const send = (worker: Worker, message: ToRecorder) => worker.postMessage(message);

onRecorderMessage((message: FromRecorder) => {
  switch (message.type) {
    case 'started':
      if (source?.id === message.sourceId) source = { ...source, handleFrames: message.handleFrames };
      break;
    case 'peaks':
      get().live?.append(message.peaks, message.frames, message.overrunFrames);
      break;
    case 'finished':
      place(message.take);
      break;
    case 'failed':
      place(message.take);
      notify('error', `Recording stopped: ${message.message} Everything up to then is kept.`);
      break;
  }
});

/** Puts a finished take into its part and makes it known; the take's audio is on disk already. */
function place(take: TakeResult) {
  const live = get().live;
  if (source && take.length > 0) {
    const { trackId, id } = source;
    rememberSource({ ...source, state: 'kept', frames: take.frames, overrunFrames: take.overrunFrames });
    const piece = {
      kind: 'audio' as const,
      source: id,
      channel: 0,
      from: take.handleFrames,
      length: take.length,
      gainDb: 0,
      struck: false,
    };
    edit(`take ${source.take}`, (timeline) => appendRecording(timeline, new Map([[trackId, [piece]]])), {
      id,
      frames: take.frames,
    });
    if (take.overrunFrames > 0) {
      const lost = (take.overrunFrames / source.rateHz).toFixed(2);
      notify(
        'warning',
        `Storage could not keep up: ${lost} s of take ${source.take} were lost. Check the disk before you go on.`,
      );
    }
  }
  source = null;
  set({ mode: 'idle', live: null });
  if (live) setCaret(sheetFramesOf(usePart.getState().timeline));
  finish();
}
