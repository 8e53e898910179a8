import { decimal, say } from '@/texts/say';
import { toParolaError } from '@/core/base/errors';
import { sleep } from '@/core/base/waiting';
import type { BlockMessage } from '@/core/far/blockMessage';
import type { FarRecording, WantedTake } from '@/core/far/messages';
import { blockIndexes, writeBlock } from '@/storage/blocks';
import { newId } from '@/storage/projects';
import type { SourceRecord } from '@/storage/schema';
import { createSource, removeSource, sourcesOfProject } from '@/storage/sources';
import { replaceSource } from '@/storage/substitute';
import { useTransport } from '../hearing/transport';
import type { ArrivedRecording } from '@/workers/importJobs';
import { importClient } from '../page/jobs';
import { notify } from '../page/notices';
import { save, saved } from '../page/saving';
import { rateOfProject, rememberSource, sourceList, useProject } from '../project/openProject';
import { substituteRecording } from '../sheet/part';
import { useFar, type Arriving } from './far';
import { note as noteInLog } from './log';

/** What the rest of a talent's line does for its blocks. */
interface Events {
  stored(recording: string, index: number): void;
  /** A take has what it needs. */
  done(take: string): void;
  progress(take: string): { here: number; of: number; whole: boolean } | null;
  /** The line's sound was so much later than was expected, in seconds. */
  measured(seconds: number): void;
}

const isOf = (key: string) => (source: SourceRecord) => source.role === 'far' && source.far?.person === key;

/** Recordings of somebody that are arriving in this project, with their blocks on disk. */
export async function storedOf(key: string) {
  const { project } = useProject.getState();
  const sources = project ? (await sourcesOfProject(project.id)).filter(isOf(key)) : [];
  return Promise.all(
    sources.map(async (source) => ({
      source,
      recording: source.far?.recording as FarRecording,
      blocks: await blockIndexes(source.id),
    })),
  );
}

/** The take that the other ends know by that name, as it stands now. */
export const takeOver = (wanted: string): SourceRecord | undefined =>
  sourceList().find(({ line, role }) => line?.take === wanted && role !== 'line');

/** Takes in which somebody's voice is what came over the line, and which have ended. */
export function waitingTakes(key: string): WantedTake[] {
  return sourceList().flatMap(({ name, line, role, state, frames, handleFrames, rateHz, deleted }) =>
    line &&
    role !== 'line' &&
    state === 'kept' &&
    !deleted &&
    line.voices.some(({ person }) => person === key)
      ? [
          {
            id: line.take,
            name,
            life: line.life,
            from: line.startsAt - line.delaySeconds,
            to: line.startsAt - line.delaySeconds + (frames - handleFrames) / rateHz,
          },
        ]
      : [],
  );
}

export function showArriving(take: string, arriving: Arriving | null): void {
  useFar.setState((state) => {
    const next = new Map(state.arriving);
    if (arriving) next.set(take, arriving);
    else next.delete(take);
    return { arriving: next };
  });
}

const retryMs = [500, 1000, 3000, 10_000];

/**
 * The blocks of one talent: written in the order they come, tried again until they are on disk; then laid.
 */
export class ArrivingBlocks {
  /** By the recording's own id, which is not its id here: both ends may live in one browser. */
  private readonly sources = new Map<string, SourceRecord>();
  private queue: Promise<void> = Promise.resolve();
  private readonly laying = new Set<string>();
  /** Blocks that wait to be written: one that comes twice is written once. */
  private readonly waiting = new Set<string>();

  constructor(
    private readonly person: string,
    public name: string,
    private readonly events: Events,
  ) {}

  known(sources: readonly SourceRecord[]): void {
    for (const source of sources) if (source.far) this.sources.set(source.far.recording.id, source);
  }

  /** More is known of a recording; the newest word is kept with it. */
  note(recording: FarRecording): void {
    const source = this.sources.get(recording.id) ?? this.fresh(recording);
    const next = { ...source, frames: recording.frames, far: { recording, person: this.person } };
    const before = this.sources.get(recording.id)?.far?.recording;
    this.sources.set(recording.id, next);
    // It grows all the time: the project is told when it comes, and when it is whole.
    if (!before || before.closed !== recording.closed) rememberSource(next);
    this.queue = this.queue.then(() => this.insist(() => createSource(next)));
    this.show(recording.take);
  }

  /** Recordings that have come as a file: they stand on disk already. */
  async adopt(read: readonly ArrivedRecording[]): Promise<void> {
    for (const { id, recording } of read) {
      const take = takeOver(recording.take);
      const source: SourceRecord = {
        ...this.fresh(recording),
        id,
        partId: take?.partId ?? '',
        far: { recording, person: this.person },
      };
      // What had come over the line of it is not needed.
      const before = this.sources.get(recording.id);
      if (before) await removeSource(before.id);
      await createSource(source);
      forgetSources(before ? [before.id] : []);
      this.sources.set(recording.id, source);
      rememberSource(source);
    }
  }

  store({ recording: id, index, audio }: BlockMessage, recording: FarRecording): void {
    const key = `${id}/${index}`;
    const source = this.sources.get(id);
    if (!source || this.waiting.has(key)) return;
    this.waiting.add(key);
    this.queue = this.queue
      .then(() => this.insist(() => writeBlock(source.id, index, audio)))
      .then(() => {
        this.waiting.delete(key);
        this.events.stored(id, index);
        this.show(recording.take);
      });
  }

  /** Looks whether a take has come, and lays it in its place then. */
  look(take: string): void {
    this.show(take);
    const source = takeOver(take);
    const voice = source?.line?.voices.find(({ person }) => person === this.person);
    if (!source || !voice || source.state !== 'kept' || this.laying.has(take)) return;
    if (!this.events.progress(take)?.whole) return;
    this.laying.add(take);
    layQueue = layQueue
      .then(() => this.lay(take, voice.channel))
      .catch((thrown: unknown) => {
        const { message } = toParolaError(thrown);
        notify(
          'error',
          say`${source.name} of ${this.name} has come, but could not be laid in its place (${message}). It is tried again when the project is opened.`,
          'far',
        );
      })
      .finally(() => this.laying.delete(take));
  }

  private show(take: string) {
    const progress = this.events.progress(take);
    const waits = takeOver(take)?.line?.voices.some(({ person }) => person === this.person);
    showArriving(
      take,
      progress && waits !== false
        ? { here: progress.here, of: progress.of, laying: this.laying.has(take) }
        : null,
    );
  }

  private fresh(recording: FarRecording): SourceRecord {
    const take = takeOver(recording.take);
    return {
      id: newId(),
      projectIds: [useProject.getState().project?.id ?? ''],
      partId: take?.partId ?? '',
      trackId: '',
      take: 0,
      name: `${this.name}, ${take?.name ?? say`a take`}`,
      rateHz: recording.rateHz,
      channels: recording.channels,
      state: 'arriving',
      frames: recording.frames,
      handleFrames: 0,
      startedAt: Date.now(),
      overrunFrames: 0,
      input: this.name,
      role: 'far',
    };
  }

  /** Until it is on disk: what is told once is not told with every try. */
  private async insist(task: () => Promise<void>): Promise<void> {
    for (let tries = 0; ; tries++) {
      try {
        return await task();
      } catch (thrown) {
        const { message } = toParolaError(thrown);
        if (tries === 0)
          notify(
            'error',
            say`${message} What ${this.name} has recorded waits there until there is room here.`,
            'far',
          );
        await sleep(retryMs[Math.min(tries, retryMs.length - 1)]);
        if (useProject.getState().status !== 'open') return;
      }
    }
  }

  private async lay(take: string, channel: number): Promise<void> {
    await quiet();
    await saved();
    const { project, readOnly } = useProject.getState();
    const source = takeOver(take);
    if (!source?.line || !project || readOnly) return;
    const { line } = source;
    showArriving(take, { here: 1, of: 1, laying: true });
    const arrived = [...this.sources.values()]
      .filter(({ far }) => far?.recording.take === take)
      .flatMap(({ id, far }) => (far ? [{ id, recording: far.recording }] : []));
    const made: SourceRecord = { ...source, id: newId(), projectIds: [project.id], state: 'receiving' };
    await createSource(made);
    try {
      const { id, frames, handleFrames, channels } = source;
      const laid = await importClient.run('layFar', {
        take: { id, frames, handleFrames, channels, rateHz: rateOfProject() },
        channel,
        line,
        life: line.life,
        arrived,
        sourceId: made.id,
      });
      const voices = line.voices.filter(({ person }) => person !== this.person);
      const { line: _line, ...whole } = made;
      const kept: SourceRecord = {
        ...whole,
        ...(voices.length > 0 && { line: { ...line, voices } }),
        state: 'kept',
        frames: laid.frames,
        summary: laid.summary,
      };
      rememberSource(kept);
      rememberSource({ ...source, role: 'line', deleted: true });
      substituteRecording(source.id, kept);
      const gone = arrived.map((one) => one.id);
      forgetSources(gone);
      await save(() => replaceSource(project.id, source.id, kept, gone));
      for (const { recording } of arrived) this.sources.delete(recording.id);
      this.tell(kept, laid);
    } catch (thrown) {
      await removeSource(made.id).catch(() => undefined);
      throw thrown;
    } finally {
      this.laying.delete(take);
      this.events.done(take);
      showArriving(take, null);
    }
  }

  private tell(
    { name, frames, handleFrames, rateHz, summary }: SourceRecord,
    {
      covered,
      places,
    }: { covered: number; places: { lateSeconds: number | null; moments: number; more: number }[] },
  ) {
    const late = places.find(({ lateSeconds }) => lateSeconds !== null)?.lateSeconds;
    if (typeof late === 'number') this.events.measured(late);
    const missing = (frames - handleFrames - covered) / rateHz;
    const whole = missing < 0.05;
    const found = places.some(({ moments }) => moments > 0) ? say`by its sound` : say`by the clocks`;
    noteInLog(
      this.name,
      `${name} has come and stands in its place (peak ${summary?.peakDbfs ?? '−∞'} dBFS), found ${found}${whole ? '' : say`; ${decimal(missing, 1)} s of it are what came over the line`}.`,
    );
    if (!whole)
      notify(
        'warning',
        say`${name} of ${this.name} has come, but ${decimal(missing, 1)} s were not recorded there: what came over the line stands in their place.`,
        'far',
      );
    const more = Math.max(0, ...places.map((place) => place.more)) / rateHz;
    if (more > 2)
      notify(
        'info',
        say`${this.name} went on for ${decimal(more, 1)} s after ${name} had ended here; that is not in it.`,
      );
  }
}

/** One after another: each reads and writes as fast as it can. */
let layQueue: Promise<void> = Promise.resolve();

function forgetSources(ids: readonly string[]) {
  useProject.setState(({ sources }) => {
    const next = new Map(sources);
    for (const id of ids) next.delete(id);
    return { sources: next };
  });
}

/** Resolves when nothing is recorded. */
async function quiet(): Promise<void> {
  for (;;) {
    const { mode } = useTransport.getState();
    if (mode === 'idle' || mode === 'playing') return;
    await sleep(200);
  }
}
