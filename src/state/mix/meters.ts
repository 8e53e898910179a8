import { amplitudeToDb, dbToAmplitude } from '@/core/base/units';
import { gainWithin, sourceSpan } from '@/core/timeline/bedSpan';
import { placedClips } from '@/core/timeline/bedTime';
import { levelAt } from '@/core/timeline/levelPoints';
import { guidesOf } from '@/core/timeline/guides';
import { bedsOf, stripOf } from '@/core/timeline/mixEdits';
import type { PieceTable } from '@/core/timeline/pieces';
import type { Chosen } from '@/core/timeline/sounding';
import { clockOf, type Timeline } from '@/core/timeline/timeline';
import { currentEngine } from '../hearing/engine';
import { heardNow } from '../hearing/listening';
import { peakCache } from '../pictures/peaks';
import { rateOfProject } from '../project/openProject';

/** A meter shows the peak of so much before the head. */
const windowSeconds = 0.1;

interface Span {
  low: number;
  high: number;
}

const peakOf = (span: Span | null, gain: number) =>
  span ? gain * Math.max(Math.abs(span.low), Math.abs(span.high)) : 0;

const peakOfTable = (table: PieceTable, from: number, to: number) =>
  table.slice(Math.min(from, table.frames), Math.min(to, table.frames)).reduce((highest, piece) => {
    if (piece.kind !== 'audio') return highest;
    const { source, channel, from: first, length, gainDb } = piece;
    return Math.max(
      highest,
      peakOf(peakCache.span(source, channel, first, first + length), dbToAmplitude(gainDb)),
    );
  }, 0);

/**
 * Peaks of every voice, guide and bed over the moment before a sheet frame, dBFS, as loud as they are in the
 * mix, by their ids; −∞ for what is not heard. From the peaks the sheet is drawn with.
 */
export function stripPeaks(timeline: Timeline, frame: number): ReadonlyMap<string, number> {
  const { own, guides } = heardNow(timeline);
  const from = Math.max(0, frame - Math.round(windowSeconds * rateOfProject()));
  const peaks = new Map<string, number>();
  const gainOf = (id: string, heard: Chosen = own) => {
    const { levelDb, points } = stripOf(timeline, id);
    return heard(id) ? dbToAmplitude(levelDb + levelAt(points, frame)) : 0;
  };
  for (const { id, table } of timeline.tracks)
    peaks.set(id, amplitudeToDb(peakOfTable(table, from, frame) * gainOf(id)));
  for (const { id, table } of guidesOf(timeline))
    peaks.set(id, amplitudeToDb(peakOfTable(table, from, frame) * gainOf(id, guides)));
  const at = clockOf(timeline).sheetToHeard(frame);
  const clips = placedClips(timeline);
  bedsOf(timeline).forEach(({ id }, index) => {
    const peak = clips[index].reduce((highest, clip) => {
      const begin = Math.max(0, at - (frame - from) - clip.at);
      const end = Math.min(clip.frames, at - clip.at);
      if (end <= begin) return highest;
      const span = sourceSpan(clip, begin, end);
      return Math.max(
        highest,
        peakOf(
          peakCache.span(clip.source, 0, span.from, Math.max(span.from + 1, span.to)),
          gainWithin(clip, at),
        ),
      );
    }, 0);
    peaks.set(id, amplitudeToDb(peak * gainOf(id)));
  });
  return peaks;
}

let analyser: { node: AnalyserNode; samples: Float32Array<ArrayBuffer> } | null = null;

/** The peak of what Parola plays now, dBFS; −∞ while there is nothing. */
export function playedPeak(): number {
  const engine = currentEngine();
  if (!engine) return -Infinity;
  if (analyser?.node.context !== engine.context) {
    const node = new AnalyserNode(engine.context, { fftSize: 4096 });
    engine.bus.connect(node);
    analyser = { node, samples: new Float32Array(node.fftSize) };
  }
  const { node, samples } = analyser;
  node.getFloatTimeDomainData(samples);
  return amplitudeToDb(samples.reduce((peak, value) => Math.max(peak, Math.abs(value)), 0));
}
