import type { Page } from 'playwright-core';

/** A take as it lies in the browser's database: not through Parola's own reader. */
export interface StoredTake {
  id: string;
  take: number;
  handleFrames: number;
  frames: number;
  channels: Float32Array[];
}

/**
 * Every take of the open project with its audio, in the order it was recorded; or only the first and the last
 * one. `kind` asks for recordings that are no takes.
 */
export async function storedTakes(
  page: Page,
  which: 'all' | 'ends' = 'all',
  kind: 'take' | 'far' | 'line' | 'tone' = 'take',
): Promise<StoredTake[]> {
  const takes = await page.evaluate(
    async ([wanted, role]) => {
      const db = await new Promise<IDBDatabase>((resolve, reject) => {
        const request = indexedDB.open('parola');
        request.onsuccess = () => resolve(request.result);
        request.onerror = () => reject(request.error);
      });
      const all = <T>(store: string, range?: IDBKeyRange) =>
        new Promise<T[]>((resolve, reject) => {
          const request = db.transaction(store).objectStore(store).getAll(range);
          request.onsuccess = () => resolve(request.result as T[]);
          request.onerror = () => reject(request.error);
        });
      const sources = await all<{
        id: string;
        take: number;
        role?: string;
        startedAt: number;
        handleFrames: number;
        frames: number;
        channels: number;
      }>('sources');
      const result = [];
      const recorded = sources
        .filter((source) => (source.role ?? 'take') === role)
        .sort((a, b) => a.startedAt - b.startedAt);
      const asked = wanted === 'all' ? recorded : [recorded[0], recorded[recorded.length - 1]];
      for (const source of asked) {
        const blocks = await all<Float32Array[]>(
          'blocks',
          IDBKeyRange.bound([source.id, 0], [source.id, Infinity]),
        );
        // As text: numbers of a million samples would take seconds to cross over.
        const channels = Array.from({ length: source.channels }, (_, channel) => {
          const bytes = blocks.map((block) => new Uint8Array(new Float32Array(block[channel]).buffer));
          let text = '';
          for (const part of bytes) {
            for (let at = 0; at < part.length; at += 8192) {
              text += String.fromCharCode(...part.subarray(at, at + 8192));
            }
          }
          return btoa(text);
        });
        result.push({
          id: source.id,
          take: source.take,
          handleFrames: source.handleFrames,
          frames: source.frames,
          channels,
        });
      }
      db.close();
      return result;
    },
    [which, kind] as const,
  );
  return takes.map((take) => ({
    ...take,
    channels: take.channels.map((text) => {
      const bytes = Buffer.from(text, 'base64');
      return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
    }),
  }));
}

export interface StoredPiece {
  kind: string;
  source: string;
  from: number;
  length: number;
  /** Nobody hears it: it stands in a struck passage. */
  struck: boolean;
  gainDb?: number;
  meant?: boolean;
  fadeIn?: { frames: number };
}

export interface StoredPart {
  id: string;
  timeline: {
    tracks: { pieces: Omit<StoredPiece, 'struck'>[] }[];
    struck: { from: number; to: number }[];
    marks: { kind: string; at: number; length: number; line?: string }[];
  };
}

/** A part of the only project as it is stored: the one that is open, or the first or last in order. */
export const storedOpenPart = (page: Page, which: 'open' | 'first' | 'last' = 'open'): Promise<StoredPart> =>
  page.evaluate(
    (wanted) =>
      new Promise<StoredPart>((resolve) => {
        const open = indexedDB.open('parola');
        open.onsuccess = () => {
          const tx = open.result.transaction(['parts', 'projects']);
          const parts = tx.objectStore('parts').getAll();
          const projects = tx.objectStore('projects').getAll();
          tx.oncomplete = () => {
            open.result.close();
            const [project] = projects.result as { partIds: string[]; openPartId: string | null }[];
            const ids = {
              open: project.openPartId,
              first: project.partIds[0],
              last: project.partIds.slice(-1)[0],
            };
            type Pieces = StoredPart['timeline']['tracks'][number]['pieces'];
            type Packed = { sources: string[]; numbers: Float64Array; others: [number, Pieces[number]][] };
            const part = parts.result.find(({ id }: { id: string }) => id === (ids[wanted] ?? ids.first));
            // Five numbers a piece, docs/formats.md.
            for (const track of part.timeline.tracks as { pieces: Pieces | Packed }[]) {
              if (Array.isArray(track.pieces)) continue;
              const { sources, numbers, others } = track.pieces;
              const pieces: Pieces = [];
              for (let at = 0; at < numbers.length; at += 5) {
                const [source, channel, from, length, gainDb] = numbers.subarray(at, at + 5);
                const plain = { source: sources[source], channel, from, length, gainDb };
                pieces.push({ kind: 'audio', ...plain });
              }
              for (const [place, piece] of others) pieces[place] = piece;
              track.pieces = pieces;
            }
            resolve(part);
          };
        };
      }),
    which,
  );

/** The pieces of the first track of the open part, as they are stored, cut where the part is struck. */
export async function storedPieces(page: Page): Promise<StoredPiece[]> {
  const { tracks, struck } = (await storedOpenPart(page)).timeline;
  const result: StoredPiece[] = [];
  let start = 0;
  for (const piece of tracks[0].pieces) {
    const end = start + piece.length;
    const cuts = struck.flatMap(({ from, to }) => [from, to]).filter((cut) => cut > start && cut < end);
    let at = start;
    for (const cut of [...cuts, end]) {
      const { fadeIn, ...plain } = piece;
      result.push({
        ...plain,
        ...(at === start && fadeIn && { fadeIn }),
        from: piece.from + at - start,
        length: cut - at,
        struck: struck.some(({ from, to }) => at >= from && at < to),
      });
      at = cut;
    }
    start = end;
  }
  return result;
}
