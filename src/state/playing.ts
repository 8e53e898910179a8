import { Player } from '@/audio/player';
import { dbToAmplitude } from '@/core/base/units';
import { PieceTable } from '@/core/timeline/pieces';
import { mixSides, type SoundingTrack } from '@/core/timeline/render';
import { heardFramesOf } from '@/core/timeline/timeline';
import { BlockReader } from '@/storage/blockReader';
import { recordedOf } from '@/storage/sources';
import { startEngine } from './engine';
import { notifyError } from './notices';
import { setCaret, usePart } from './part';
import { rateOfProject, sourceList, type SourceRecord } from './session';
import { joinFrames, playback, useTransport } from './transport';

const set = useTransport.setState;
const get = useTransport.getState;

let playedFrom = 0;
let returning = false;

/** Renders heard frames of tracks for playing, at a gain. */
function renderer(tracks: readonly SoundingTrack[], gain = 1) {
  const reader = new BlockReader(sourceList());
  const settings = { joinFrames: joinFrames() };
  return async (from: number, frames: number) => {
    const channels = await mixSides(tracks, from, frames, reader, settings);
    if (gain !== 1) for (const samples of channels) for (let i = 0; i < frames; i++) samples[i] *= gain;
    return channels;
  };
}

/** Heard audio of the open part, as it is played. */
export const renderPart = (from: number, frames: number) =>
  renderer(usePart.getState().timeline.tracks)(from, frames);

/** Plays heard audio from the caret to the end of the part; from the start when the caret stands at the end. */
export async function play(): Promise<void> {
  const { timeline, caret } = usePart.getState();
  if (get().mode !== 'idle' || heardFramesOf(timeline) === 0) return;
  const { table } = timeline.tracks[0];
  const heard = table.sheetToHeard(caret);
  const from = heard >= table.heardFrames ? 0 : heard;
  playedFrom = caret;
  await run(timeline.tracks, { from, to: table.heardFrames }, null);
}

async function run(
  tracks: readonly SoundingTrack[],
  range: { from: number; to: number },
  take: { id: string; gainDb: number } | null,
) {
  set({ mode: 'playing', playingTake: take?.id ?? null });
  try {
    const { context, bus } = await startEngine(rateOfProject());
    const gain = take ? dbToAmplitude(take.gainDb) : 1;
    const player = new Player(context, range, renderer(tracks, gain), notifyError, bus);
    playback.player = player;
    await player.ended;
    if (playback.player === player) endPlaying();
  } catch (error) {
    playback.player = null;
    set({ mode: 'idle', playingTake: null });
    notifyError(error);
  }
}

/** Ends playing at once, for whoever needs the transport next. */
export function endPlaying(): void {
  const { player } = playback;
  if (!player) return;
  const { table } = usePart.getState().timeline.tracks[0];
  const at = get().playingTake ? null : returning ? playedFrom : table.heardToSheet(player.frame);
  player.stop();
  playback.player = null;
  returning = false;
  set({ mode: 'idle', playingTake: null });
  if (at !== null) setCaret(at);
}

/** Stops playing where it is, or back where it began. */
export function stopPlaying(back = false): void {
  returning = back;
  playback.player?.stop();
}

/** A take by itself, both of its channels where it has two. */
const tracksOfTake = (take: SourceRecord): SoundingTrack[] =>
  [...recordedOf(take, take.frames - take.handleFrames).values()].map((pieces) => ({
    table: PieceTable.of(pieces),
  }));

/** Listens to a take alone, from `fromFrame` of it on, `gainDb` louder; the caret stays. */
export async function playTake(take: SourceRecord, fromFrame = 0, gainDb = 0): Promise<void> {
  if (get().mode === 'playing') endPlaying();
  if (get().mode !== 'idle') return;
  const tracks = tracksOfTake(take);
  const to = tracks[0].table.heardFrames;
  await run(tracks, { from: Math.min(fromFrame, to), to }, { id: take.id, gainDb });
}

/** How far a take that is listened to has come, in frames; null when none is. */
export const takeFrame = () => (get().playingTake ? (playback.player?.frame ?? null) : null);
