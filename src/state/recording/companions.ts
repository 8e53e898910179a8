import { Player, type RenderChunk } from '@/audio/player';
import { stet } from '@/core/timeline/edits';
import { guidesOf, isInStep } from '@/core/timeline/guides';
import { silence, type PieceTable } from '@/core/timeline/pieces';
import type { Range } from '@/core/timeline/range';
import { soundingOf, type Sounding } from '@/core/timeline/sounding';
import type { Placement } from '@/core/timeline/takes';
import { clockOf, sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import type { Engine } from '../hearing/engine';
import { heardNow, useListening } from '../hearing/listening';
import { renderer } from '../hearing/rendering';
import { notifyError } from '../page/notices';
import { soundingSettings } from '../project/openProject';
import { cueSettings, recordSettings } from '../project/settings';
import { usePart } from '../sheet/part';

/**
 * What is heard beside a take while it is recorded: the guides and the tracks that are not armed, from the
 * punch on. It changes nothing of what is recorded.
 */
export interface Companions {
  /** Time stands again where the take goes: what was struck there is heard. */
  readonly timeline: Timeline;
  readonly range: Range;
}

/**
 * The stretch of the sheet over which the others sound while a take is made; null where it is a gap. A patch
 * of its own length may go on behind its selection where time stays.
 */
function stretchOf(placement: Placement, timeline: Timeline): Range | null {
  const end = sheetFramesOf(timeline);
  switch (placement.mode) {
    case 'retake':
      return { from: placement.at, to: end };
    case 'patch':
      return {
        from: placement.from,
        to: placement.length === 'reading' && isInStep(timeline) ? end : placement.to,
      };
    case 'cue':
      return { from: placement.in, to: Math.min(end, placement.to ?? end) };
    case 'continue':
    case 'insert':
      return null;
  }
}

/**
 * Ids of what will be heard while a take is recorded so; none where it is switched off, muted, or there is no
 * other sound where the take goes.
 */
export function heardBeside(placement: Placement | null, armed: ReadonlySet<string>): string[] {
  const { timeline } = usePart.getState();
  const stretch = placement && stretchOf(placement, timeline);
  if (!stretch || stretch.to <= stretch.from || recordSettings().hearOthers === false) return [];
  const { own, guides } = heardNow(timeline);
  return [
    ...timeline.tracks.filter(({ id }) => !armed.has(id) && own(id)),
    ...guidesOf(timeline).filter(({ id }) => guides(id)),
  ].flatMap(({ id, table }) => (hasAudio(table, stretch) ? [id] : []));
}

function hasAudio(table: PieceTable, { from, to }: Range): boolean {
  if (from >= table.frames) return false;
  for (let i = table.indexAt(from); i < table.pieces.length && table.startOf(i) < to; i++)
    if (table.pieces[i].kind === 'audio') return true;
  return false;
}

/** What will be heard while a take is recorded so; null for nothing. */
export function companionsOf(placement: Placement, armed: ReadonlySet<string>): Companions | null {
  if (heardBeside(placement, armed).length === 0) return null;
  const { timeline } = usePart.getState();
  const stretch = stretchOf(placement, timeline);
  if (!stretch) return null;
  const standing = stet(withoutGuide(timeline, placement), stretch);
  const clock = clockOf(standing);
  return {
    timeline: standing,
    range: { from: clock.sheetToHeard(stretch.from), to: clock.sheetToHeard(stretch.to) },
  };
}

/** The guide falls silent while the line of a cue is said, where that is wanted. */
function withoutGuide(timeline: Timeline, placement: Placement): Timeline {
  if (placement.mode !== 'cue' || cueSettings().guide === 'heard') return timeline;
  const { in: from, out: to } = placement;
  const guides = guidesOf(timeline).map((guide) => {
    const end = Math.min(to, guide.table.frames);
    return end > from ? { ...guide, table: guide.table.replace(from, end, [silence(end - from)]) } : guide;
  });
  return { ...timeline, guides };
}

function soundingOfCompanions({ timeline }: Companions, armed: ReadonlySet<string>): Sounding {
  const { own, guides } = heardNow(timeline);
  const { beds: _, ...sounding } = soundingOf(
    timeline,
    // As it was recorded: while a take is written the machine has better things to do.
    { ...soundingSettings(), dry: true },
    (id) => !armed.has(id) && own(id),
    guides,
  );
  return sounding;
}

/** Rendered before it is needed: the first moments have to sound at their frame. */
const preparedSeconds = 2;

export const rendererOfCompanions = (companions: Companions, armed: ReadonlySet<string>): RenderChunk =>
  renderer(soundingOfCompanions(companions, armed), 'cueing');

/** Companions whose first seconds are rendered: they can be played at a frame of the context. */
export interface PreparedCompanions {
  start(engine: Engine, atFrame: number): { stop(): void };
}

export async function prepareCompanions(
  companions: Companions,
  armed: ReadonlySet<string>,
): Promise<PreparedCompanions> {
  const { range } = companions;
  const { rateHz } = soundingSettings();
  const render = () => rendererOfCompanions(companions, armed);
  const rendered = render();
  const frames = Math.min(range.to - range.from, preparedSeconds * rateHz);
  const first = await rendered(range.from, frames);
  const prepared: RenderChunk = async (from, count) => {
    const at = from - range.from;
    return at + count <= frames
      ? first.map((samples) => samples.slice(at, at + count))
      : rendered(from, count);
  };
  return {
    start({ context, bus }, atFrame) {
      const player = new Player(context, range, prepared, notifyError, bus, { atFrame });
      // What is muted while it is recorded is not heard any more; what is recorded stays the same.
      const forget = useListening.subscribe(() => void player.change(render()).catch(notifyError));
      return {
        stop() {
          forget();
          player.stop();
        },
      };
    },
  };
}
