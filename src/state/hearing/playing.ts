import { contextFrame } from '@/audio/contextFrame';
import { playAt } from '@/audio/playAt';
import { Player, type RenderChunk } from '@/audio/player';
import { assert } from '@/core/base/errors';
import { dbToAmplitude } from '@/core/base/units';
import { PieceTable } from '@/core/timeline/pieces';
import type { HeardTrack } from '@/core/timeline/heard';
import type { Purpose } from '@/core/timeline/mixer';
import { sameSounding, soundingOf, soundingOfTracks, type Sounding } from '@/core/timeline/sounding';
import { clockOf, heardFramesOf, type Timeline } from '@/core/timeline/timeline';
import { recordedOf } from '@/storage/sources';
import { startEngine } from './engine';
import { notifyError } from '../page/notices';
import { partClock, setCaret, usePart } from '../sheet/part';
import { heardThrough } from './chainHearing';
import { heardNow } from './listening';
import { renderer } from './rendering';
import { rateOfProject, soundingSettings, type SourceRecord } from '../project/openProject';
import { isEditable, playback, setScrubbed, useTransport } from './transport';
import { useView } from '../page/view';

const set = useTransport.setState;
const get = useTransport.getState;

let playedFrom = 0;
/** What is asked for now, from the key on: it may be ended before the engine has started. */
let listening: Listening | null = null;

/** Heard audio of the open part, rendered for a purpose. */
export const renderPart = (purpose: Purpose, from: number, frames: number) =>
  renderer(soundingNow(usePart.getState().timeline, purpose), purpose)(from, frames);

/**
 * What is heard of a timeline while working. A run-up is heard as it was recorded, without chains: the voice
 * carries on in the tone it hears.
 */
function soundingNow(timeline: Timeline, purpose: Purpose = 'playing'): Sounding {
  const { own, guides } = heardNow(timeline);
  const dry = purpose === 'cueing';
  const sounding = soundingOf(timeline, { ...soundingSettings(), dry }, own, guides);
  return dry ? sounding : heardThrough(sounding, timeline);
}

/**
 * How something is heard: the sheet from the caret on, a stretch of it while the caret stays, or something
 * apart from it.
 */
interface Listening {
  sounding?: Sounding;
  /** Instead of a sounding: what is played as it is given. */
  rendered?: RenderChunk;
  /** Heard frames of those tracks. */
  range: { from: number; to: number };
  /** The caret goes where playing ends. */
  caretMoves?: boolean;
  /** The tracks are those of the sheet, so that the head can be shown on it. */
  onSheet?: boolean;
  take?: string;
  gainDb?: number;
  loop?: boolean;
}

/**
 * Plays heard audio from the caret to the end of the part; from the start when the caret stands at the end.
 */
export async function play(): Promise<void> {
  const { timeline, caret } = usePart.getState();
  const end = heardFramesOf(timeline);
  if (get().mode !== 'idle' || end === 0) return;
  const heard = clockOf(timeline).sheetToHeard(caret);
  playedFrom = caret;
  await listen({
    sounding: soundingNow(timeline),
    range: { from: heard >= end ? 0 : heard, to: end },
    caretMoves: true,
    onSheet: true,
  });
}

/** Plays a sheet range of the open part; the caret stays. Plays on and on where looping is on. */
export async function playRange(range: { from: number; to: number }): Promise<void> {
  const { timeline } = usePart.getState();
  await playStretch(timeline, range, true);
}

/** Plays a sheet range of a timeline that is not the open one: what an edit would sound like. */
export const playTimeline = (timeline: Timeline, range: { from: number; to: number }) =>
  playStretch(timeline, range, false);

/** Plays something that is on no sheet. */
export async function playTracks(
  tracks: readonly HeardTrack[],
  range: { from: number; to: number },
): Promise<void> {
  if (get().mode === 'playing') endPlaying();
  if (get().mode === 'idle') await listen({ sounding: soundingOfTracks(tracks, soundingSettings()), range });
}

/**
 * Plays heard frames of the sheet as they are given, while the caret stays; they may begin before the sheet
 * does. Resolves when that has ended.
 */
export async function playRendered(
  range: { from: number; to: number },
  rendered: RenderChunk,
): Promise<void> {
  if (get().mode === 'playing') endPlaying();
  if (get().mode === 'idle') await listen({ rendered, range, onSheet: true });
}

async function playStretch(timeline: Timeline, range: { from: number; to: number }, onSheet: boolean) {
  if (get().mode === 'playing') endPlaying();
  if (get().mode !== 'idle') return;
  const clock = clockOf(timeline);
  const heard = { from: clock.sheetToHeard(range.from), to: clock.sheetToHeard(range.to) };
  if (heard.to <= heard.from) return;
  await listen({
    sounding: soundingNow(timeline),
    range: heard,
    onSheet,
    loop: useView.getState().loop,
  });
}

async function listen(wanted: Listening) {
  const { sounding, range, take, gainDb = 0, loop, caretMoves = false, onSheet = false } = wanted;
  listening = wanted;
  set({ mode: 'playing', playingTake: take ?? null });
  try {
    const { context, bus } = await startEngine(rateOfProject());
    if (listening !== wanted) return;
    const options = { loop, speed: sounding ? useView.getState().speed : 1 };
    const rendered = sounding && renderer(sounding, 'playing', dbToAmplitude(gainDb));
    const sound = rendered ?? wanted.rendered;
    assert(sound, 'there is something to play');
    const player = new Player(context, range, sound, notifyError, bus, options);
    Object.assign(playback, { player, caretMoves, onSheet });
    await player.ended;
    if (listening === wanted) endPlaying();
  } catch (error) {
    if (listening !== wanted) return;
    endPlaying();
    notifyError(error);
  }
}

/**
 * Goes on with another mix of what is playing from the sheet: its times have to be the same. Heard in a
 * moment, without a click.
 */
export function changePlaying(timeline: Timeline): void {
  const { player, onSheet } = playback;
  if (!listening?.sounding || !player || !onSheet) return;
  const sounding = soundingNow(timeline);
  // What was a change on its way is heard already when it is taken.
  if (sameSounding(listening.sounding, sounding)) return;
  listening.sounding = sounding;
  player.change(renderer(sounding, 'playing')).catch((error: unknown) => {
    endPlaying();
    notifyError(error);
  });
}

/**
 * Ends playing at once, for whoever needs the transport next; also what was asked for and is not heard yet.
 * The caret goes where playing is, or `back` where it began.
 */
export function endPlaying({ back = false } = {}): void {
  if (!listening) return;
  listening = null;
  const { player, caretMoves } = playback;
  playback.player = null;
  const at = player && caretMoves ? (back ? playedFrom : partClock().heardToSheet(player.frame)) : null;
  player?.stop();
  set({ mode: 'idle', playingTake: null, cueRun: null });
  if (at !== null) setCaret(at);
}

/**
 * Ends what plays so that what is there can be worked on where it has come to; false while something is
 * recorded.
 */
export function stopToEdit(): boolean {
  if (!isEditable(get())) return false;
  endPlaying();
  return true;
}

/** A take by itself, both of its channels where it has two. */
const tracksOfTake = (take: SourceRecord): HeardTrack[] =>
  [...recordedOf(take, take.frames - take.handleFrames).values()].map((pieces) => ({
    table: PieceTable.of(pieces),
  }));

/** Listens to a take alone, from `fromFrame` of it on, `gainDb` louder; the caret stays. */
export async function playTake(take: SourceRecord, fromFrame = 0, gainDb = 0): Promise<void> {
  if (get().mode === 'playing') endPlaying();
  if (get().mode !== 'idle') return;
  const tracks = tracksOfTake(take);
  const to = tracks[0].table.frames;
  await listen({
    sounding: soundingOfTracks(tracks, soundingSettings()),
    range: { from: Math.min(fromFrame, to), to },
    take: take.id,
    gainDb,
  });
}

/** How far a take that is listened to has come, in frames; null when none is. */
export const takeFrame = () => (get().playingTake ? (playback.player?.frame ?? null) : null);

const scrubSeconds = 0.12;
let scrubbing: AudioBufferSourceNode | null = null;

/**
 * Lets a moment around a sheet frame be heard, for dragging across the loupe; the one before falls silent.
 */
export async function scrub(frame: number): Promise<void> {
  if (get().mode !== 'idle') return;
  setScrubbed(frame);
  const rate = rateOfProject();
  const clock = partClock();
  const at = Math.max(0, clock.sheetToHeard(frame) - Math.round((scrubSeconds * rate) / 2));
  const frames = Math.min(Math.round(scrubSeconds * rate), clock.heardFrames - at);
  if (frames < 64) return;
  const { context, bus } = await startEngine(rate);
  const samples = await renderPart('playing', at, frames);
  for (const channel of samples) {
    channel.forEach((value, i) => {
      channel[i] = value * Math.min(1, i / (frames / 4), (frames - i) / (frames / 4));
    });
  }
  scrubbing?.stop();
  scrubbing = playAt(context, bus, samples, contextFrame(context) + 128);
}
