import { say } from '@/texts/say';
import { ALL_FORMATS, BlobSource, EncodedPacketSink, Input, type InputVideoTrack } from 'mediabunny';
import { ParolaError, cancelled } from '@/core/base/errors';
import { rateOfTimes, type Film } from '@/core/cues/film';
import { writeFilm } from '@/storage/films';
import type { JobContext } from './protocol';

/** What is known of a moving picture without going through it. */
export interface FoundPicture {
  readonly width: number;
  readonly height: number;
  readonly seconds: number;
  /** Whether it can be shown here; otherwise what its coding is called. */
  readonly shown: true | string;
}

const withPicture = async <T>(
  file: File,
  read: (track: InputVideoTrack) => Promise<T>,
): Promise<T | null> => {
  const input = new Input({ formats: ALL_FORMATS, source: new BlobSource(file) });
  try {
    const track = await input.getPrimaryVideoTrack().catch(() => null);
    return track && (await read(track));
  } finally {
    input.dispose();
  }
};

/** The picture of a file; null for one that has none. A cover of a sound file is no moving picture. */
export const lookAtPicture = (file: File): Promise<FoundPicture | null> =>
  withPicture(file, async (track) => {
    const [width, height, seconds, coding] = [
      await track.getDisplayWidth(),
      await track.getDisplayHeight(),
      await track.computeDuration(),
      await track.getCodecParameterString(),
    ];
    const shown = (await track.canDecode()) || coding || say`an unknown coding`;
    return { width, height, seconds, shown };
  });

/** So many packets are looked at between two looks at the signal. */
const packetsBetween = 500;

/**
 * Goes through a film's pictures for its rate, then copies it into storage under the id of the recording
 * of its sound. Throws ParolaError `unsupported`, `storage-full` or `cancelled`; then nothing is left of it.
 */
export async function keepFilm(
  { file, sourceId }: { file: File; sourceId: string },
  { signal, progress }: JobContext,
): Promise<Film> {
  const film = await withPicture(file, async (track): Promise<Film> => {
    const times: number[] = [];
    for await (const { timestamp } of new EncodedPacketSink(track).packets(undefined, undefined, {
      metadataOnly: true,
    })) {
      times.push(timestamp);
      if (times.length % packetsBetween === 0 && signal.aborted) throw cancelled();
    }
    return {
      fileName: file.name,
      bytes: file.size,
      width: await track.getDisplayWidth(),
      height: await track.getDisplayHeight(),
      frames: times.length,
      seconds: await track.computeDuration(),
      rate: rateOfTimes(times),
    };
  });
  if (!film) throw new ParolaError('unsupported', say`“${file.name}” has no picture.`);
  let copied = 0;
  await writeFilm(sourceId, file.stream(), {
    signal,
    advance: (bytes) => progress((copied += bytes) / Math.max(1, file.size), file.name),
  });
  return film;
}
