import { longestPauseMs, type Delivery, type WorkSession } from '@/core/keep/workLog';
import { filePasses } from '@/core/specs/report';
import { heardFramesOf } from '@/core/timeline/timeline';
import { storeSession } from '@/storage/workLog';
import { useExported } from '../files/exporting';
import { useTransport } from '../hearing/transport';
import { savePassing, useSaving } from '../page/saving';
import { useProject } from '../project/openProject';
import { usePart } from '../sheet/part';

/** What there is of a project at a moment. */
interface Standing {
  heardSeconds: number;
  sources: ReadonlySet<string>;
  marks: ReadonlySet<string>;
}

interface Running {
  session: WorkSession;
  /** What was there when it began, and after what was done last. */
  before: Standing;
  after: Standing;
  flubs: Set<string>;
}

let running: Running | null = null;
/** So often at most it is written what a session is so far. */
const everyMs = 10_000;
let written = 0;

/** Seconds that are heard of all parts. */
function heardSeconds(): number {
  const { project, parts } = useProject.getState();
  const { id, timeline } = usePart.getState();
  const frames = parts.reduce(
    (sum, part) => sum + (part.id === id ? heardFramesOf(timeline) : part.heardFrames),
    0,
  );
  return frames / (project?.rateHz ?? 1);
}

const flubsNow = () =>
  usePart
    .getState()
    .timeline.marks.filter(({ kind }) => kind === 'flub')
    .map(({ id }) => id);

const takesNow = () =>
  [...useProject.getState().sources.values()].filter(({ role = 'take' }) => role === 'take');

const standing = (): Standing => ({
  heardSeconds: heardSeconds(),
  sources: new Set(takesNow().map(({ id }) => id)),
  marks: new Set(flubsNow()),
});

function begin(at: number, before: Standing): Running | null {
  const { project, status, readOnly } = useProject.getState();
  if (!project || status !== 'open' || readOnly) return null;
  const session = {
    projectId: project.id,
    projectName: project.name,
    startedAt: at,
    endedAt: at,
    ...{ takes: 0, recordedSeconds: 0, finishedSeconds: 0, flubs: 0, deliveries: [] },
  };
  return { session, before, after: before, flubs: new Set() };
}

/** Something was done: it belongs to the session that runs, or begins one. */
function active(deliveries: readonly Delivery[] = []): void {
  const now = Date.now();
  if (running && now - running.session.endedAt > longestPauseMs) {
    store();
    // What comes first after a pause has been done by now.
    running = begin(now, running.after);
  }
  running ??= begin(now, standing());
  if (!running) return;
  const { session, before, flubs } = running;
  for (const id of flubsNow()) if (!before.marks.has(id)) flubs.add(id);
  const takes = takesNow().filter(({ id, state }) => state === 'kept' && !before.sources.has(id));
  running.after = standing();
  running.session = {
    ...session,
    projectName: useProject.getState().project?.name ?? session.projectName,
    endedAt: now,
    takes: takes.length,
    recordedSeconds: takes.reduce(
      (sum, { frames, handleFrames, rateHz }) => sum + Math.max(0, frames - handleFrames) / rateHz,
      0,
    ),
    finishedSeconds: running.after.heardSeconds - before.heardSeconds,
    flubs: flubs.size,
    deliveries: [...session.deliveries, ...deliveries],
  };
  if (deliveries.length > 0 || now - written > everyMs) store();
}

/** A session in which nothing was recorded, finished or delivered is not worth a line. */
const isWorth = ({ takes, finishedSeconds, deliveries }: WorkSession) =>
  takes > 0 || Math.abs(finishedSeconds) > 0.5 || deliveries.length > 0;

function store() {
  if (!running || !isWorth(running.session)) return;
  written = Date.now();
  const { session } = running;
  void savePassing(() => storeSession(session));
}

function end() {
  store();
  running = null;
}

/** Keeps the log of the open project for as long as it is open. */
export function followWork(): () => void {
  // What there is when it is opened is none of this session's work.
  running = begin(Date.now(), standing());
  const unfollow = [
    useTransport.subscribe(({ mode }, before) => {
      if (mode !== before.mode && (mode === 'recording' || before.mode === 'recording')) active();
    }),
    useSaving.subscribe(({ pending }, before) => {
      if (pending === 0 && before.pending > 0) active();
    }),
    useExported.subscribe(({ report }, before) => {
      if (!report || report === before.report) return;
      active(
        report.files.map((file) => ({
          at: Date.now(),
          fileName: file.fileName,
          bytes: file.bytes,
          sha256: file.sha256,
          passes: filePasses(file),
        })),
      );
    }),
  ];
  return () => {
    for (const stop of unfollow) stop();
    end();
  };
}
