'use client';
import { useMemo } from 'react';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import type { Cue, CueSheet } from '@/core/timeline/cues';
import { useCues } from '@/state/cues/cues';
import { filmOf, type PartFilm } from '@/state/hearing/film';
import { useTransport, type CueRun } from '@/state/hearing/transport';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';

/** What a stage shows: the picture of the part where it has one, and the cue that is chosen or runs. */
export interface Staged {
  film: PartFilm | null;
  cue: Cue | undefined;
  running: CueRun | null;
  sheet: CueSheet;
}

export function useStaged(): Staged {
  const sheet = usePart((state) => cueSheetOf(state.timeline));
  const guides = usePart((state) => state.timeline.guides);
  const sources = useProject((state) => state.sources);
  const chosen = useCues((state) => state.chosen);
  const running = useTransport((state) => state.cueRun);
  useProject((state) => state.project?.recording);
  const film = useMemo(() => filmOf(guides ?? [], sources), [guides, sources]);
  const cue = running?.cue ?? sheet.cues.find(({ id }) => id === chosen);
  return { film, cue, running, sheet };
}
