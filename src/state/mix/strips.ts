import { say } from '@/texts/say';
import { create } from 'zustand';
import { allOfIt, type Strip } from '@/core/timeline/mix';
import { guidesOf } from '@/core/timeline/guides';
import { bedsOf, changeStrip, stripOf } from '@/core/timeline/mixEdits';
import type { Timeline } from '@/core/timeline/timeline';
import { useChainHearing } from '../hearing/chainHearing';
import { changePlaying } from '../hearing/playing';
import { toggleMuted, toggleSolo, useListening } from '../hearing/listening';
import { useTransport } from '../hearing/transport';
import { whenProjectCloses } from '../page/resets';
import { isReadOnly } from '../project/openProject';
import { edit, usePart } from '../sheet/part';

/** What a strip is of. */
export type StripKind = 'voice' | 'side' | 'guide' | 'bed' | 'all';

export interface NamedStrip extends Strip {
  readonly name: string;
  readonly kind: StripKind;
}

interface Mixing {
  /** The strip that keys are for. */
  readonly chosen: string | null;
  /** A change that is being made: heard, drawn, and one step when it ends. */
  readonly draft: { readonly id: string; readonly changes: Partial<Omit<Strip, 'id'>> } | null;
}

const none: Mixing = { chosen: null, draft: null };

export const useMixing = create<Mixing>(() => none);
whenProjectCloses(() => useMixing.setState(none));

/** Every voice, every guide, every bed and all together, in the order they are shown. */
export function stripsOf(timeline: Timeline): NamedStrip[] {
  const named = (id: string, name: string, kind: StripKind) => ({ ...stripOf(timeline, id), name, kind });
  return [
    ...timeline.tracks.map(({ id, name, side }) => named(id, name, side ? 'side' : 'voice')),
    ...guidesOf(timeline).map(({ id, name }) => named(id, name, 'guide')),
    ...bedsOf(timeline).map(({ id, name }) => named(id, name, 'bed')),
    named(allOfIt, say`All together`, 'all'),
  ];
}

/** A timeline with the change that is being made. */
export const drafted = (timeline: Timeline, { draft }: Pick<Mixing, 'draft'>): Timeline =>
  draft ? changeStrip(timeline, draft.id, draft.changes) : timeline;

/** A change on its way: a slider that is dragged. */
export function draftStrip(id: string, changes: Partial<Omit<Strip, 'id'>>): void {
  if (isReadOnly()) return;
  useMixing.setState({ chosen: id, draft: { id, changes } });
}

/** Makes a change a step that can be undone. */
export function setStrip(id: string, changes: Partial<Omit<Strip, 'id'>>): void {
  const name = stripsOf(usePart.getState().timeline).find((strip) => strip.id === id)?.name ?? '';
  const what = changes.points ? say`level points` : changes.place === undefined ? say`level` : say`place`;
  edit(say`${what} of ${name}`, (timeline) => changeStrip(timeline, id, changes));
  // After the step: nothing in between is heard as it was.
  useMixing.setState({ chosen: id, draft: null });
}

export const choose = (id: string) => useMixing.setState({ chosen: id });

/** The strip that keys are for; the first where none was chosen. */
export function chosenStrip(timeline = usePart.getState().timeline): NamedStrip {
  const strips = stripsOf(timeline);
  const { chosen } = useMixing.getState();
  return strips.find(({ id }) => id === chosen) ?? strips[0];
}

export function stepStrip(step: -1 | 1): void {
  const strips = stripsOf(usePart.getState().timeline);
  const at = strips.findIndex(({ id }) => id === chosenStrip().id);
  choose(strips[(at + step + strips.length) % strips.length].id);
}

/** Steps of keys. */
export const levelStepDb = 0.5;
const placeStep = 0.05;

export function louder(stepDb: number): void {
  const { id, levelDb } = chosenStrip();
  setStrip(id, { levelDb: levelDb + stepDb });
}

/** Further to a side, as far as there is one: not for the sides of a pair, nor for all together. */
export function further(direction: -1 | 1): void {
  const { id, place, kind } = chosenStrip();
  if (kind === 'voice' || kind === 'guide' || kind === 'bed')
    setStrip(id, { place: Math.round((place + direction * placeStep) * 100) / 100 });
}

export const muteChosen = () => toggleMutedOf(chosenStrip().id);
export const soloChosen = () => toggleSoloOf(chosenStrip().id);

/** All together cannot be muted against itself. */
export const toggleMutedOf = (id: string) => id !== allOfIt && toggleMuted(id);
export const toggleSoloOf = (id: string) => id !== allOfIt && toggleSolo(id);

/** At most so often a mix that is changed while it plays is rendered anew. */
const renewMs = 50;

/** While a part plays, every change of its mix is heard at once. Returns what ends it. */
export function hearChanges(): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let renewedMs = -Infinity;
  const renewNow = () => {
    timer = undefined;
    renewedMs = performance.now();
    if (useTransport.getState().mode === 'playing')
      changePlaying(drafted(usePart.getState().timeline, useMixing.getState()));
  };
  const renew = () => {
    // The first change is heard at once; of those that follow close upon it, the last one.
    if (timer) return;
    const leftMs = renewedMs + renewMs - performance.now();
    if (leftMs > 0) timer = setTimeout(renewNow, leftMs);
    else renewNow();
  };
  const forget = [
    usePart.subscribe((now, before) => {
      if (now.timeline.mix !== before.timeline.mix) renew();
    }),
    useMixing.subscribe((now, before) => {
      if (now.draft !== before.draft) renew();
    }),
    useListening.subscribe(renew),
    useChainHearing.subscribe(renew),
  ];
  return () => {
    clearTimeout(timer);
    forget.forEach((stop) => stop());
  };
}
