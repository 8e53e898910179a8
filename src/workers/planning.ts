import { gridOf } from '@/core/chain/cells';
import { stepsOn, type Chain } from '@/core/chain/chain';
import { measureWork } from '@/core/chain/chainWork';
import type { RoomProfile } from '@/core/chain/roomProfile';
import { usualOrder } from '@/core/chain/settings';
import { learnRoom } from '@/core/chain/softerRoom';
import type { Chains, PlannedVoice } from '@/core/specs/chainPlan';
import type { Watch } from '@/core/specs/partMeter';
import { voiceAlone } from '@/core/timeline/chainedTracks';
import { plainHeardStrip } from '@/core/timeline/levelPoints';
import { framesOfSounding, tracksOf, type Sounding } from '@/core/timeline/sounding';
import { BlockReader } from '@/storage/blockReader';
import type { HeardPart, VoiceToPlan } from './proofJobs';
import { roomAlone } from './roomAlone';

/** A sounding whose voices have these chains; one that is not among them keeps its own. */
export function withChains(sounding: Sounding, voices: readonly VoiceToPlan[], chains: Chains): Sounding {
  const byPlace = new Map(
    voices.flatMap(({ id, places }) => places.map((place) => [place, chains[id]] as const)),
  );
  return {
    ...sounding,
    tracks: sounding.tracks.map((track, place) => {
      const chain = byPlace.get(place);
      if (!chain) return track;
      const { chain: _, ...strip } = track.strip ?? plainHeardStrip;
      const steps = stepsOn(chain);
      return { ...track, strip: { ...strip, ...(steps.length > 0 && { chain: steps }) } };
    }),
  };
}

/** What a plan has to know of the voices: how loud they are, and what their rooms are like. */
export async function plannedVoices(
  { sounding, sources }: HeardPart,
  voices: readonly VoiceToPlan[],
  { progress }: Watch,
): Promise<PlannedVoice[]> {
  const tracks = tracksOf(sounding);
  const reader = new BlockReader(sources);
  const frames = framesOfSounding(sounding);
  const planned: PlannedVoice[] = [];
  for (const { id, places, chain, tone } of voices) {
    const own = places.map((place) => ({
      ...tracks[place],
      strip: { ...plainHeardStrip, chain: stepsOn(chain) },
    }));
    const { voice } = voiceAlone(own, reader, sounding.joins, sounding.rateHz);
    const { finished } = await measureWork(voice, frames, { progress });
    // A voice that says nothing here needs no chain.
    if (!Number.isFinite(finished.speechDbfs)) continue;
    planned.push({
      id,
      chain,
      levels: finished,
      profile: tone && (await profileOf(tone, chain, reader, sounding.rateHz)),
    });
  }
  return planned;
}

/** The room as noise reduction will meet it: behind the steps that usually stand before it. */
async function profileOf(
  tone: NonNullable<VoiceToPlan['tone']>,
  chain: Chain,
  reader: BlockReader,
  rateHz: number,
): Promise<RoomProfile | null> {
  const rank = usualOrder.indexOf('room');
  const before = stepsOn(chain).filter(({ kind }) => usualOrder.indexOf(kind) < rank);
  const { voice, from, frames } = roomAlone(tone, reader, before, rateHz);
  try {
    return learnRoom((await voice.read(from, frames))[0], gridOf(rateHz));
  } catch {
    // Too short a tone: the pauses are left to the expander.
    return null;
  }
}
