import { tableCsv } from '../formats/markFiles';

/** A file that was written and read back. */
export interface Delivery {
  /** Milliseconds since 1970. */
  at: number;
  fileName: string;
  bytes: number;
  sha256: string;
  passes: boolean;
}

/** Work on a project without a long pause, for invoices and for getting better. */
export interface WorkSession {
  projectId: string;
  projectName: string;
  /** Milliseconds since 1970. */
  startedAt: number;
  endedAt: number;
  takes: number;
  /** Lengths of the takes that were recorded. */
  recordedSeconds: number;
  /** By how much what is heard of the project has grown; negative where it has shrunk. */
  finishedSeconds: number;
  flubs: number;
  deliveries: Delivery[];
}

/** Who comes back after a longer pause than this begins a new session. */
export const longestPauseMs = 30 * 60_000;

/** Sums of some sessions; rates are null where too little was done for one. */
export interface WorkSum {
  label: string;
  sessions: number;
  hours: number;
  takes: number;
  recordedMinutes: number;
  finishedMinutes: number;
  /** Finished minutes an hour of work. */
  pace: number | null;
  /** Flubs a finished hour. */
  flubRate: number | null;
  delivered: number;
}

const hoursOf = ({ startedAt, endedAt }: WorkSession) => (endedAt - startedAt) / 3_600_000;
/** Under so many minutes a rate says nothing. */
const leastMinutes = 1;

export function sumOf(label: string, sessions: readonly WorkSession[]): WorkSum {
  const sum = (of: (session: WorkSession) => number) => sessions.reduce((all, one) => all + of(one), 0);
  const hours = sum(hoursOf);
  const finishedMinutes = sum(({ finishedSeconds }) => finishedSeconds) / 60;
  const enough = hours * 60 >= leastMinutes && finishedMinutes >= leastMinutes;
  return {
    label,
    sessions: sessions.length,
    hours,
    takes: sum(({ takes }) => takes),
    recordedMinutes: sum(({ recordedSeconds }) => recordedSeconds) / 60,
    finishedMinutes,
    pace: enough ? finishedMinutes / hours : null,
    flubRate: enough ? (sum(({ flubs }) => flubs) / finishedMinutes) * 60 : null,
    delivered: sum(({ deliveries }) => deliveries.length),
  };
}

/** Sums by what `labelOf` says of each session, in the order in which the labels come first. */
export function sumsBy(
  sessions: readonly WorkSession[],
  labelOf: (session: WorkSession) => string,
): WorkSum[] {
  const groups = new Map<string, WorkSession[]>();
  for (const session of sessions) {
    const label = labelOf(session);
    groups.set(label, [...(groups.get(label) ?? []), session]);
  }
  return [...groups].map(([label, group]) => sumOf(label, group));
}

const rounded = (value: number | null, digits: number) =>
  value === null ? null : Number(value.toFixed(digits));

/** Sessions as CSV (RFC 4180), times in ISO 8601; a session's deliveries with their checksums in one cell. */
export const workCsv = (sessions: readonly WorkSession[]): string =>
  tableCsv(
    sessions.map((session) => {
      const { hours, recordedMinutes, finishedMinutes, pace, flubRate } = sumOf('', [session]);
      return {
        project: session.projectName,
        from: new Date(session.startedAt).toISOString(),
        to: new Date(session.endedAt).toISOString(),
        hours: rounded(hours, 3),
        takes: session.takes,
        recorded_minutes: rounded(recordedMinutes, 2),
        finished_minutes: rounded(finishedMinutes, 2),
        finished_minutes_per_hour: rounded(pace, 1),
        flubs: session.flubs,
        flubs_per_finished_hour: rounded(flubRate, 1),
        delivered: session.deliveries
          .map(({ fileName, sha256, passes }) => `${fileName} ${sha256}${passes ? '' : ' (does not pass)'}`)
          .join('; '),
      };
    }),
  );
