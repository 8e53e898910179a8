import { say } from '@/texts/say';
import { create } from 'zustand';
import { secondsToFrames } from '@/core/base/units';
import { framesOf, overlap, type Range } from '@/core/timeline/range';
import { layOutReadings } from '@/core/timeline/roomEdits';
import { lineStates } from '@/core/timeline/scriptLines';
import { openProposals, othersSpeaking, placedSpeech, speechOfAll } from './finding';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { edit, openPartRecord, partClock, refusedInStep, usePart } from '../sheet/part';
import { rateOfProject } from '../project/openProject';

/** Readings of one line, one after another, of which one is to stay. */
export interface ReadingGroup {
  key: string;
  title: string;
  readings: Range[];
}

/** Which reading of each group stays; the last one where nothing was chosen. */
export const useReadings = create<{ chosen: ReadonlyMap<string, number>; spacing: number }>(() => ({
  chosen: new Map(),
  spacing: 0.8,
}));

whenProjectCloses(() => useReadings.setState({ chosen: new Map() }));

export const chooseReading = (key: string, index: number) =>
  useReadings.setState(({ chosen }) => ({ chosen: new Map(chosen).set(key, index) }));

/**
 * Lines that were read several times in a row: by the marks of the script where there are some, else by what
 * the search has found to be read twice; chains of repetitions are one group.
 */
export function readingGroups(): ReadingGroup[] {
  const { timeline } = usePart.getState();
  const script = openPartRecord()?.script ?? [];
  const byLine = [...lineStates(timeline, script)].flatMap(([line, { state, readings }]): ReadingGroup[] => {
    if (state !== 'twice') return [];
    const index = script.findIndex((one) => one.id === line);
    const trimmed = readings.map(spoken);
    return [{ key: line, title: `${index + 1} · ${script[index].text}`, readings: trimmed }];
  });
  if (byLine.length > 0) return byLine.sort((a, b) => a.readings[0].from - b.readings[0].from);
  return byRepetition();
}

/** A reading without the pauses at its ends, as far as the search knows them. */
function spoken({ from, to }: Range): Range {
  const inside = speechOfAll().filter((one) => one.from < to && one.to > from);
  if (inside.length === 0) return { from, to };
  return { from: Math.max(from, inside[0].from), to: Math.min(to, inside[inside.length - 1].to) };
}

function byRepetition(): ReadingGroup[] {
  const groups: ReadingGroup[] = [];
  const speech = speechOfAll();
  for (const { proposal, range } of openProposals()) {
    if (proposal.kind !== 'readTwice') continue;
    const first = spoken(range);
    const next = speech.filter((one) => one.from >= range.to - 0.15 * rateOfProject());
    const length = first.to - first.from;
    const again = next.filter((one) => one.from < range.to + 1.2 * length);
    const second = { from: range.to, to: again[again.length - 1]?.to ?? range.to + length };
    const last = groups[groups.length - 1];
    const chained =
      last && Math.abs(last.readings[last.readings.length - 1].from - range.from) < 0.2 * rateOfProject();
    if (chained) last.readings.push(second);
    else groups.push({ key: proposal.id, title: say`Read several times`, readings: [first, second] });
  }
  return groups;
}

/** Nobody but the one who reads speaks in a reading: it can be struck for all. */
function isOfOneVoice(reading: Range): boolean {
  const spoken = usePart
    .getState()
    .timeline.tracks.map(({ id }) => ({
      id,
      frames: framesOf(placedSpeech(id).filter((one) => overlap(one, reading))),
    }))
    .sort((a, b) => b.frames - a.frames);
  return othersSpeaking(spoken[0].id, reading).length === 0;
}

/**
 * Strikes all readings but the chosen ones and sets the spacing between what stays. One step that can be
 * undone.
 */
export function layOutChosen(): void {
  const { chosen, spacing } = useReadings.getState();
  const groups = readingGroups();
  if (groups.length === 0) return notify('info', say`No line is read more than once.`);
  const choices = groups
    .map(({ key, readings }) => ({
      readings,
      chosen: readings[Math.min(chosen.get(key) ?? readings.length - 1, readings.length - 1)],
    }))
    .filter(({ readings, chosen: kept }) => readings.every((one) => one === kept || isOfOneVoice(one)));
  const left = groups.length - choices.length;
  if (left > 0)
    notify(
      'info',
      say`${left === 1 ? say`1 line stays` : say`${left} lines stay`} as read: somebody else speaks in a reading that would go. Strike on one stave alone there.`,
    );
  if (choices.length === 0 || refusedInStep()) return;
  const frames = secondsToFrames(spacing, rateOfProject());
  const clock = partClock();
  const taken = (range: Range) =>
    choices.some(({ readings }) => readings.some((one) => overlap(one, range))) || clock.isAllStruck(range);
  const others = speechOfAll().filter((range) => !taken(range));
  edit(say`best of the readings`, (timeline) => layOutReadings(timeline, choices, frames, others));
  useReadings.setState({ chosen: new Map() });
}
