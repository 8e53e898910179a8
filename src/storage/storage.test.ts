import 'fake-indexeddb/auto';
import { blockFrames } from '@/core/base/audio';
import { findSpec } from '@/core/specs/builtIn';
import { firstDifference, noise } from '@/core/testing/signals';
import { addMark } from '@/core/timeline/edits';
import { addCues } from '@/core/timeline/cueEdits';
import { emptyTimeline } from '@/core/timeline/timeline';
import { overlay } from '@/core/timeline/overlay';
import { appendRecording, hearTake } from '@/core/timeline/takes';
import { difference, inverse, apply } from '@/core/timeline/history';
import { loadTimeline, storeTimeline } from '@/core/timeline/stored';
import { BlockReader } from './blockReader';
import { allOf, database, write } from './database';
import { repackSource } from './repack';
import { historyLength, readStep, saveStep, withTimeline } from './parts';
import type { Step } from '@/core/timeline/history';
import {
  addPart,
  createProject,
  deletePart,
  deleteProject,
  duplicateProject,
  listProjects,
  loadProject,
  newPart,
  newProject,
} from './projects';
import { purgeDeleted } from './purge';
import { recoverTakes } from './recovery';
import type { PartRecord, SourceRecord } from './schema';
import { BlockWriter, readPeaks, storedFrames, writeBlock } from './blocks';
import { changeTake, createSource, finishSource, sourcesOfProject } from './sources';
import { upgradeParts } from './upgrade';

const spec = findSpec('Dry voice');

async function project() {
  if (!spec) throw new Error('no spec');
  const created = newProject('Test', spec, 48_000);
  const part = newPart(created.id, 'One');
  await createProject(created, [part]);
  return { project: created, part };
}

const sourceOf = (projectId: string, partId: string, more: Partial<SourceRecord> = {}): SourceRecord => ({
  id: crypto.randomUUID(),
  projectIds: [projectId],
  partId,
  trackId: 'track-1',
  take: 1,
  name: 'Take 1',
  rateHz: 48_000,
  channels: 1,
  state: 'kept',
  frames: 0,
  handleFrames: 0,
  startedAt: 1,
  overrunFrames: 0,
  input: 'Test',
  ...more,
});

const piece = (source: string, from: number, length: number) => ({
  kind: 'audio' as const,
  source,
  channel: 0,
  from,
  length,
  gainDb: 0,
});

/** A part with a finished take on its sheet. */
async function withTake(projectId: string, part: PartRecord, audio: Float32Array) {
  const source = sourceOf(projectId, part.id, { frames: audio.length });
  await createSource(source);
  const writer = new BlockWriter(source.id, 1);
  await writer.write([audio]);
  await writer.close();
  const before = loadTimeline(part.timeline);
  const after = appendRecording(before, new Map([['track-1', [piece(source.id, 0, audio.length)]]]));
  await saveStep(withTimeline(part, after, part.historyAt + 1), {
    label: 'take 1',
    difference: difference(before, after),
  });
  return { source, after };
}

const count = async (store: 'blocks' | 'peaks' | 'sources' | 'parts' | 'history' | 'projects') =>
  (await database()).count(store);

describe('blocks', () => {
  test('audio comes back bit for bit from any place, in any chunking', async () => {
    const audio = noise(blockFrames * 9 + 777, -20, 1);
    const id = crypto.randomUUID();
    const writer = new BlockWriter(id, 1);
    for (let at = 0; at < audio.length; at += 5000) await writer.write([audio.subarray(at, at + 5000)]);
    expect(await writer.close()).toBe(audio.length);
    expect(await storedFrames(id)).toBe(audio.length);
    const reader = new BlockReader([{ id, frames: audio.length }]);
    for (const [from, frames] of [
      [0, audio.length],
      [blockFrames - 1, 2],
      [40_000, 9000],
      [audio.length - 1, 1],
    ]) {
      const output = new Float32Array(frames + 3);
      await reader.read(id, 0, from, frames, output, 3);
      expect(firstDifference(output.subarray(3), audio.subarray(from, from + frames))).toBe(-1);
    }
  });

  test('peaks have the extremes and the mean square of each 256 frames', async () => {
    const audio = noise(blockFrames + 300, -20, 2);
    const id = crypto.randomUUID();
    const writer = new BlockWriter(id, 1);
    await writer.write([audio]);
    await writer.close();
    const [[first]] = await readPeaks(id, 0, 5);
    expect(first).toHaveLength(66 * 3);
    const stretch = audio.subarray(256, 512);
    expect(first[3]).toBe(Math.min(...stretch));
    expect(first[4]).toBe(Math.max(...stretch));
    expect(first[5]).toBeCloseTo(stretch.reduce((sum, value) => sum + value * value, 0) / 256, 6);
  });

  test('a block that is written is never written again', async () => {
    const id = crypto.randomUUID();
    await writeBlock(id, 0, [noise(100, -20, 1)]);
    await expect(writeBlock(id, 0, [noise(100, -20, 2)])).rejects.toThrow();
  });

  test('a hole in storage reads as silence, not as an error', async () => {
    const id = crypto.randomUUID();
    await writeBlock(id, 1, [noise(blockFrames, -20, 1)]);
    const output = new Float32Array(blockFrames * 2);
    await new BlockReader([{ id, frames: blockFrames * 2 }]).read(id, 0, 0, output.length, output, 0);
    expect(output.subarray(0, blockFrames).every((value) => value === 0)).toBe(true);
    expect(await storedFrames(id)).toBe(0);
  });
});

describe('packed blocks', () => {
  /** A take as the recorder leaves it: blocks of 16,384 frames, the last one short. */
  async function recorded(frames: number, state: SourceRecord['state'] = 'kept', channels = 2) {
    const { project: own, part } = await project();
    const source = sourceOf(own.id, part.id, { frames, channels, state });
    await createSource(source);
    const audio = Array.from({ length: channels }, (_, channel) => noise(frames, -20, 7 + channel));
    for (let index = 0; index * blockFrames < frames; index++)
      await writeBlock(
        source.id,
        index,
        audio.map((samples) => samples.slice(index * blockFrames, (index + 1) * blockFrames)),
      );
    return { source, audio };
  }
  const keysOf = async (id: string, store: 'blocks' | 'peaks' = 'blocks') =>
    (await (await database()).getAllKeys(store, allOf(id))).map(([, ...rest]) => rest);
  const never = new AbortController().signal;
  const wholeOf = async ({ id, frames }: SourceRecord, channel: number) => {
    const output = new Float32Array(frames);
    await new BlockReader([{ id, frames }]).read(id, channel, 0, frames, output, 0);
    return output;
  };

  test('hold the same audio and the same peaks as those that were recorded', async () => {
    const { source, audio } = await recorded(blockFrames * 18 + 4321);
    const before = await readPeaks(source.id, 0, 63);
    await repackSource(source.id, never);
    expect(await keysOf(source.id)).toEqual([
      [0, 8],
      [8, 8],
      [16, 3],
    ]);
    expect(await keysOf(source.id, 'peaks')).toEqual(await keysOf(source.id));
    expect(await storedFrames(source.id)).toBe(source.frames);
    for (const channel of [0, 1]) {
      expect(firstDifference(await wholeOf(source, channel), audio[channel])).toBe(-1);
      const joined = (blocks: Float32Array[][]) => blocks.flatMap((block) => [...block[channel]]);
      expect(joined(await readPeaks(source.id, 0, 63))).toEqual(joined(before));
    }
    await repackSource(source.id, never);
    expect(await keysOf(source.id)).toHaveLength(3);
  });

  test('a take that is still being recorded, and blocks with one missing between them, stay as they are', async () => {
    const { source: running } = await recorded(blockFrames * 9, 'recording', 1);
    await repackSource(running.id, never);
    expect(await keysOf(running.id)).toHaveLength(9);
    const { source, audio } = await recorded(blockFrames * 12, 'kept', 1);
    await write(['blocks', 'peaks'], async (tx) => {
      await tx.objectStore('blocks').delete([source.id, 3]);
      await tx.objectStore('peaks').delete([source.id, 3]);
    });
    await repackSource(source.id, never);
    expect(await keysOf(source.id)).toEqual([[0], [1], [2], [4], [5], [6], [7], [8, 4]]);
    audio[0].fill(0, 3 * blockFrames, 4 * blockFrames);
    expect(firstDifference(await wholeOf(source, 0), audio[0])).toBe(-1);
    expect(await storedFrames(source.id)).toBe(3 * blockFrames);
  });

  test('ends between two of them when it is told to; what was read before reads on after', async () => {
    const { source, audio } = await recorded(blockFrames * 24, 'kept', 1);
    const reader = new BlockReader([source]);
    const output = new Float32Array(source.frames);
    await reader.read(source.id, 0, 0, 100_000, output, 0);
    const stop = new AbortController();
    let asked = 0;
    // The first look at the signal lets it go on, the second one does not.
    jest.spyOn(stop.signal, 'aborted', 'get').mockImplementation(() => asked++ > 0);
    await repackSource(source.id, stop.signal);
    expect(await keysOf(source.id)).toHaveLength(1 + 16);
    for (let at = 100_000; at < source.frames; at += 50_000)
      await reader.read(source.id, 0, at, Math.min(50_000, source.frames - at), output, at);
    expect(firstDifference(output, audio[0])).toBe(-1);
  });

  test('what fails half way leaves the recorded blocks', async () => {
    const { source, audio } = await recorded(blockFrames * 8, 'kept', 1);
    const add = jest.spyOn(IDBObjectStore.prototype, 'add').mockImplementation(() => {
      throw new DOMException('The disk is full.', 'QuotaExceededError');
    });
    await expect(repackSource(source.id, never)).rejects.toMatchObject({ code: 'storage-full' });
    expect(add).toHaveBeenCalled();
    add.mockRestore();
    expect(await keysOf(source.id)).toHaveLength(8);
    expect(await keysOf(source.id, 'peaks')).toHaveLength(8);
    expect(firstDifference(await wholeOf(source, 0), audio[0])).toBe(-1);
  });

  test('a take that grows while it is read is heard to its end', async () => {
    const { source, audio } = await recorded(blockFrames * 6, 'recording', 1);
    const frames = blockFrames * 6;
    await write(['blocks'], (tx) => tx.objectStore('blocks').delete([source.id, 5]));
    const reader = new BlockReader([{ id: source.id, frames }]);
    const output = new Float32Array(frames);
    await reader.read(source.id, 0, 0, 50_000, output, 0);
    await write(['blocks'], (tx) =>
      tx.objectStore('blocks').add([audio[0].slice(5 * blockFrames)], [source.id, 5]),
    );
    await reader.read(source.id, 0, 50_000, frames - 50_000, output, 50_000);
    expect(firstDifference(output, audio[0])).toBe(-1);
  });
});

describe('projects', () => {
  test('a copy shares the audio; it goes when the last project that uses it is deleted', async () => {
    const { project: first, part } = await project();
    await withTake(first.id, part, noise(20_000, -20, 1));
    const blocks = await count('blocks');
    const copy = await duplicateProject(first.id, 'Copy');
    expect(await count('blocks')).toBe(blocks);
    const copied = await loadProject(copy.id);
    expect(copied.parts[0].timeline).toEqual((await loadProject(first.id)).parts[0].timeline);
    expect(copied.parts[0].id).not.toBe(part.id);
    await deleteProject(first.id);
    expect(await count('blocks')).toBe(blocks);
    await deleteProject(copy.id);
    expect(await count('blocks')).toBe(blocks - 1);
    await expect(loadProject(copy.id)).rejects.toMatchObject({ code: 'not-found' });
  });

  test('a copy lists the takes under its own parts, and says of them what it likes', async () => {
    const { project: first, part } = await project();
    const { source } = await withTake(first.id, part, noise(20_000, -20, 1));
    const copy = await duplicateProject(first.id, 'Copy');
    const [copiedPart] = (await loadProject(copy.id)).parts;
    const take = async (projectId: string) =>
      (await sourcesOfProject(projectId)).find(({ id }) => id === source.id);
    expect(await take(copy.id)).toMatchObject({ partId: copiedPart.id, name: source.name });
    expect(await take(first.id)).toMatchObject({ partId: part.id });
    await changeTake(copy.id, source.id, { note: 'too fast', deleted: true });
    expect(await take(copy.id)).toMatchObject({ note: 'too fast', deleted: true });
    expect((await take(first.id))?.note).toBeUndefined();
    expect((await take(first.id))?.deleted).toBeFalsy();
    await deleteProject(first.id);
    await deleteProject(copy.id);
  });

  test.each([
    ['a date that is none', { openedAt: NaN }],
    ['a name that is a number', { name: 7 }],
    ['no list of parts', { partIds: 'many' }],
    ['no spec', { spec: null }],
    ['no rate', { rateHz: undefined }],
  ])(
    'one whose record has %s is listed as such, with all others, and says so when it is opened',
    async (_name, wrong) => {
      const { project: fine } = await project();
      const { project: own } = await project();
      await write(['projects'], (tx) =>
        tx.objectStore('projects').put({ ...own, ...(wrong as Partial<typeof own>) }),
      );
      const listed = await listProjects();
      expect(listed.find(({ project: one }) => one.id === fine.id)).toMatchObject({ broken: false });
      expect(listed.find(({ project: one }) => one.id === own.id)).toMatchObject({ broken: true });
      await expect(loadProject(own.id)).rejects.toMatchObject({ code: 'damaged-file' });
      await deleteProject(own.id);
      await deleteProject(fine.id);
    },
  );

  test('a part stored by an earlier version, each piece struck by itself, is brought up to date with its history', async () => {
    const { project: own, part } = await project();
    const piece = (from: number, struck: boolean) => ({
      ...{ kind: 'audio', source: 's', channel: 0, from, length: 1000, gainDb: 0 },
      struck,
    });
    const tracks = [
      { id: 'track-1', name: 'Voice', pieces: [piece(0, false), piece(1000, true), piece(2000, false)] },
    ];
    const strike = {
      label: 'strike',
      difference: {
        tracks: [
          { id: 'track-1', pieces: { at: 1, removed: [piece(1000, false)], added: [piece(1000, true)] } },
        ],
        marks: null,
      },
    };
    await write(['parts', 'history'], async (tx) => {
      const old = { tracks, marks: [], places: [] } as unknown as PartRecord['timeline'];
      await tx.objectStore('parts').put({ ...part, timeline: old, historyAt: 1 });
      await tx.objectStore('history').put({ partId: part.id, seq: 0, step: strike as never });
    });
    await upgradeParts(own.id);
    const [today] = (await loadProject(own.id)).parts;
    expect(today.timeline).toMatchObject({ struck: [{ from: 1000, to: 2000 }] });
    expect(loadTimeline(today.timeline).tracks[0].table.pieces).toHaveLength(1);
    expect(today).toMatchObject({ heardFrames: 2000, historyAt: 1 });
    const step = await readStep(part.id, 0);
    if (!step) throw new Error('the step is stored');
    expect(apply(loadTimeline(today.timeline), inverse(step.difference)).struck).toEqual([]);
    // Once more changes nothing.
    await upgradeParts(own.id);
    expect((await loadProject(own.id)).parts).toEqual([today]);
    await deleteProject(own.id);
  });

  test('the list says what is recorded and heard', async () => {
    const { project: own, part } = await project();
    await withTake(own.id, part, noise(48_000, -20, 1));
    const summary = (await listProjects()).find(({ project: listed }) => listed.id === own.id);
    expect(summary).toMatchObject({ parts: 1, heardSeconds: 1, cues: { done: 0, all: 0 } });
    const cue = (id: string) => ({ id, number: id, from: 0, to: 9, text: '', note: '' });
    const cued = addCues(emptyTimeline(['Voice']), [
      cue('1'),
      { ...cue('2'), done: true as const },
      cue('3'),
    ]);
    await addPart(newPart(own.id, 'Two', [], cued));
    const more = (await listProjects()).find(({ project: listed }) => listed.id === own.id);
    expect(more).toMatchObject({ parts: 2, cues: { done: 1, all: 3 } });
    await deleteProject(own.id);
  });

  test('deleting a part takes its history and takes, and nothing of the other parts', async () => {
    const { project: own, part } = await project();
    const other = newPart(own.id, 'Two');
    await addPart(other);
    await withTake(own.id, part, noise(20_000, -20, 1));
    const { source } = await withTake(own.id, other, noise(20_000, -20, 2));
    await deletePart((await loadProject(own.id)).parts[0]);
    const { parts, project: after } = await loadProject(own.id);
    expect(parts.map(({ id }) => id)).toEqual([other.id]);
    expect(after.partIds).toEqual([other.id]);
    expect(await storedFrames(source.id)).toBe(20_000);
    expect(await historyLength(part.id)).toBe(0);
    expect(await historyLength(other.id)).toBe(1);
    await deleteProject(own.id);
  });

  test('a step that cannot be read keeps no part and no take from going', async () => {
    const { project: own, part } = await project();
    const other = newPart(own.id, 'Two');
    await addPart(other);
    const { source } = await withTake(own.id, part, noise(20_000, -20, 1));
    const db = await database();
    for (const [seq, step] of [null, {}, { label: 'x', difference: { tracks: 1 } }].entries())
      await db.put('history', { partId: other.id, seq, step: step as unknown as Step });
    await deletePart((await loadProject(own.id)).parts[0]);
    expect((await loadProject(own.id)).parts.map(({ id }) => id)).toEqual([other.id]);
    expect(await storedFrames(source.id)).toBe(0);
    await deleteProject(own.id);
  });

  test('a step that is saved can be undone after reading it back', async () => {
    const { project: own, part } = await project();
    const { after } = await withTake(own.id, part, noise(1000, -20, 1));
    const step = await readStep(part.id, 0);
    if (!step) throw new Error('the step is stored');
    expect(storeTimeline(apply(after, inverse(step.difference)))).toEqual(part.timeline);
    await deleteProject(own.id);
  });

  test('a write that fails leaves everything as it was', async () => {
    const { project: own, part } = await project();
    const failing = write(['parts', 'projects'], async (tx) => {
      await tx.objectStore('parts').put({ ...part, name: 'Half' });
      throw new Error('in the middle');
    });
    await expect(failing).rejects.toMatchObject({ name: 'ParolaError' });
    expect((await loadProject(own.id)).parts[0].name).toBe('One');
    await deleteProject(own.id);
  });
});

describe('takes that were cut off', () => {
  async function cutOff(blocks: number, handleFrames: number, more: Partial<SourceRecord> = {}) {
    const { project: own, part } = await project();
    const { after } = await withTake(own.id, part, noise(10_000, -20, 9));
    const source = sourceOf(own.id, part.id, {
      state: 'recording',
      handleFrames,
      take: 2,
      startedAt: 2,
      ...more,
    });
    if (blocks > 0) await createSource(source);
    for (let i = 0; i < blocks; i++) await writeBlock(source.id, i, [noise(blockFrames, -20, i)]);
    return { own, part, source, after };
  }

  test('stand at the end of their part, every whole block of them, as a step that can be undone', async () => {
    const { own, part, source, after } = await cutOff(3, 4000);
    expect(await recoverTakes(own.id)).toEqual([
      {
        partId: part.id,
        partName: 'One',
        take: 2,
        seconds: (3 * blockFrames - 4000) / 48_000,
        placement: { mode: 'continue' },
      },
    ]);
    const [stored] = (await loadProject(own.id)).parts;
    const [track] = loadTimeline(stored.timeline).tracks;
    expect(track.table.pieces).toEqual([
      ...after.tracks[0].table.pieces,
      piece(source.id, 4000, 3 * blockFrames - 4000),
    ]);
    expect(stored.historyAt).toBe(2);
    const step = await readStep(part.id, 1);
    if (!step) throw new Error('the step is stored');
    expect(storeTimeline(apply(loadTimeline(stored.timeline), inverse(step.difference)))).toEqual(
      storeTimeline(after),
    );
    // Opening it again finds nothing more to do.
    expect(await recoverTakes(own.id)).toEqual([]);
    await deleteProject(own.id);
  });

  test('marks made while they were recorded are kept where they are', async () => {
    const { own, part, after } = await cutOff(2, 0);
    const marked = addMark(after, { id: 'm', kind: 'flub', at: 20_000, length: 0, name: 'Flub 1' });
    await saveStep(withTimeline(part, marked, 2), {
      label: 'flub mark',
      difference: difference(after, marked),
    });
    await recoverTakes(own.id);
    expect((await loadProject(own.id)).parts[0].timeline.marks).toEqual(marked.marks);
    await deleteProject(own.id);
  });

  test('leave nothing behind when not even one block of the take itself was written', async () => {
    const { own, source } = await cutOff(1, blockFrames);
    expect(await recoverTakes(own.id)).toEqual([]);
    expect(await (await database()).get('sources', source.id)).toBeUndefined();
    expect(await storedFrames(source.id)).toBe(0);
    await deleteProject(own.id);
  });
});

describe('deleted takes', () => {
  test('go with their audio when the project is closed, and with the steps that heard them; others stay', async () => {
    const { project: own, part } = await project();
    const record = async (take: number) => {
      const source = sourceOf(own.id, part.id, { take, frames: 1000 });
      await createSource(source);
      await writeBlock(source.id, 0, [noise(1000, -20, take)]);
      return source;
    };
    const [a, b, c] = [await record(1), await record(2), await record(3)];
    let timeline = loadTimeline(part.timeline);
    const steps = [
      appendRecording(timeline, new Map([['track-1', [piece(a.id, 0, 1000)]]])),
      overlay(
        appendRecording(timeline, new Map([['track-1', [piece(a.id, 0, 1000)]]])),
        new Map([['track-1', [piece(b.id, 0, 500)]]]),
        100,
      ),
    ];
    steps.push(hearTake(steps[1], a.id, { from: 0, to: 1000 }));
    steps.push(appendRecording(steps[2], new Map([['track-1', [piece(c.id, 0, 1000)]]])));
    for (const [seq, after] of steps.entries()) {
      await saveStep(withTimeline(part, after, seq + 1), {
        label: `step ${seq}`,
        difference: difference(timeline, after),
      });
      timeline = after;
    }
    // One that is still heard is kept, whatever the user said about it.
    await finishSource(b.id, { deleted: true });
    await finishSource(c.id, { deleted: true });
    await purgeDeleted(own.id);
    expect((await sourcesOfProject(own.id)).map(({ take }) => take).sort()).toEqual([1, 3]);
    expect(await storedFrames(b.id)).toBe(0);
    expect(await storedFrames(c.id)).toBe(1000);
    // Of four steps the first three named the purged take or came before one that did; the last one can still
    // be undone.
    const [stored] = (await loadProject(own.id)).parts;
    expect(stored.historyAt).toBe(1);
    expect(await historyLength(part.id)).toBe(1);
    const step = await readStep(part.id, 0);
    if (!step) throw new Error('no step');
    expect(apply(loadTimeline(stored.timeline), inverse(step.difference))).toEqual(steps[2]);
    await deleteProject(own.id);
  });
});

describe('recovery in the other ways of recording', () => {
  test.each([
    [{ mode: 'retake' as const, at: 300 }, 1000, [300, 400, 300]],
    [{ mode: 'insert' as const, at: 300 }, 1400, [300, 400, 700]],
    [{ mode: 'patch' as const, from: 100, to: 800, length: 'selection' as const }, 1000, [100, 400, 500]],
  ])('%j: the take stands where it was being recorded', async (placement, sheet, lengths) => {
    const { project: own, part } = await project();
    const first = sourceOf(own.id, part.id, { frames: 1000 });
    await createSource(first);
    await writeBlock(first.id, 0, [noise(1000, -20, 1)]);
    const after = appendRecording(
      loadTimeline(part.timeline),
      new Map([['track-1', [piece(first.id, 0, 1000)]]]),
    );
    await saveStep(withTimeline(part, after, 1), {
      label: 'take 1',
      difference: difference(loadTimeline(part.timeline), after),
    });
    const cut = sourceOf(own.id, part.id, { take: 2, state: 'recording', handleFrames: 200, placement });
    await createSource(cut);
    await writeBlock(cut.id, 0, [noise(600, -20, 2)]);
    const [recovered] = await recoverTakes(own.id);
    expect(recovered.placement).toEqual(placement);
    const [stored] = (await loadProject(own.id)).parts;
    const { table } = loadTimeline(stored.timeline).tracks[0];
    expect(table.frames).toBe(sheet);
    expect(table.pieces.map(({ length }) => length)).toEqual(lengths);
    expect(table.pieces[1]).toMatchObject({ source: cut.id, from: 200 });
    // Nothing of the old reading is gone.
    expect(await storedFrames(first.id)).toBe(1000);
    await deleteProject(own.id);
  });

  test('a sound check that was cut off leaves nothing', async () => {
    const { project: own } = await project();
    const check = sourceOf(own.id, '', { role: 'tone', state: 'recording' });
    await createSource(check);
    await writeBlock(check.id, 0, [noise(1000, -60, 1)]);
    expect(await recoverTakes(own.id)).toEqual([]);
    expect(await sourcesOfProject(own.id)).toEqual([]);
    await deleteProject(own.id);
  });
});

test('deleting a part keeps what other parts show, or can bring back', async () => {
  const { project: created, part: first } = await project();
  const other = newPart(created.id, 'Other');
  await addPart(other);
  const take = (id: string): SourceRecord => ({
    id,
    projectIds: [created.id],
    partId: first.id,
    trackId: 'track-1',
    take: 1,
    name: id,
    rateHz: 48_000,
    channels: 1,
    state: 'kept',
    frames: 10,
    handleFrames: 0,
    startedAt: 1,
    overrunFrames: 0,
    input: 'x',
  });
  for (const id of ['shown', 'undone', 'nowhere']) await createSource(take(id));
  const recorded = (source: string) =>
    new Map([['track-1', [{ kind: 'audio' as const, source, channel: 0, from: 0, length: 10, gainDb: 0 }]]]);
  const empty = loadTimeline(other.timeline);
  const undone = appendRecording(empty, recorded('undone'));
  await saveStep(withTimeline(other, undone, 1), { label: 'paste', difference: difference(empty, undone) });
  const shown = appendRecording(empty, recorded('shown'));
  await saveStep(withTimeline(other, shown, 2), { label: 'other', difference: difference(undone, shown) });
  await deletePart(first);
  const left = (await sourcesOfProject(created.id)).map(({ id }) => id);
  expect(left).toEqual(expect.arrayContaining(['shown', 'undone']));
  expect(left).not.toContain('nowhere');
});
