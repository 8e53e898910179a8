import { broadcastInfo } from '@/core/delivery/partFiles';
import { safeName, withoutCollisions } from '@/core/formats/fileNames';
import { PieceTable } from '@/core/timeline/pieces';
import { soundingOfTracks } from '@/core/timeline/sounding';
import { clockOf } from '@/core/timeline/timeline';
import type { FileFormat } from '@/core/specs/fileFormat';
import { recordedOf } from '@/storage/sources';
import type { SourceRecord } from '@/storage/schema';
import { soundingSettings, useProject } from '../project/openProject';
import { takeLength } from '../recording/takes';
import { openPartRecord, usePart } from '../sheet/part';
import { writeItems } from './exporting';

/**
 * Writes takes as files of their own; with their time position as Broadcast WAV, so that another program can
 * put them in place.
 */
export async function exportTakes(
  takes: readonly SourceRecord[],
  format: FileFormat,
  withPosition: boolean,
): Promise<void> {
  const { project } = useProject.getState();
  const { timeline } = usePart.getState();
  if (!project || takes.length === 0) return;
  const part = openPartRecord()?.name ?? '';
  const clock = clockOf(timeline);
  const items = takes.flatMap((take) => {
    const length = takeLength(take);
    return [...recordedOf(take, length)].map(([trackId, pieces]) => {
      const track = timeline.tracks.find((candidate) => candidate.id === trackId);
      const side = take.channels > 1 ? `_${safeName(track?.name ?? trackId)}` : '';
      const place = timeline.places.find(({ source }) => source === take.id);
      const scale = format.rateHz / project.rateHz;
      return {
        fileName: `${safeName(project.name)}_${safeName(part)}_${safeName(take.name)}${side}.${format.container}`,
        format,
        sounding: soundingOfTracks([{ table: PieceTable.of(pieces) }], soundingSettings()),
        range: { from: 0, to: length },
        broadcast:
          withPosition && format.container === 'wav'
            ? broadcastInfo(format, {
                description: `${project.name}, ${part}, ${take.name}`,
                reference: take.id,
                recordedAt: take.startedAt,
                timeReference: place ? Math.round(clock.sheetToHeard(place.at) * scale) : 0,
              })
            : undefined,
      };
    });
  });
  // Takes may have been given the same name, and so may their staves.
  const names = withoutCollisions(items.map(({ fileName }) => fileName));
  await writeItems(
    items.map((item, index) => ({ ...item, fileName: names[index] })),
    `${safeName(project.name)}_takes.zip`,
  );
}
