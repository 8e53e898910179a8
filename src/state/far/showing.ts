import type { FromStudio, Moving } from '@/core/far/messages';
import { mostLines } from '@/core/far/messages';
import { filmNumber, pieceBytes, writeFilmPiece } from '@/core/far/filmPiece';
import { guidesOf } from '@/core/timeline/guides';
import { filmFile } from '@/storage/films';
import { cueNow } from '../cues/cues';
import { filmOf, runningSeconds, standingSeconds } from '../hearing/film';
import { headFrame, useTransport } from '../hearing/transport';
import { rateOfProject, useProject } from '../project/openProject';
import { usePart } from '../sheet/part';
import { cueSettings, recordSettings } from '../project/settings';
import type { Caller } from './caller';
import { audioClock } from './clock';
import { personOf, useFar } from './far';

const short = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text);

/** The part that is open, as a talent reads it. */
function scriptNow(): FromStudio {
  const { id } = usePart.getState();
  const part = useProject.getState().parts.find((one) => one.id === id);
  const lines = (part?.script ?? []).slice(0, mostLines);
  return {
    kind: 'script',
    part: short(part?.name ?? '', 200),
    lines: lines.map(({ text }) => ({ text: short(text, 20_000), label: '' })),
  };
}

const filmNow = () => {
  const { timeline } = usePart.getState();
  return filmOf(guidesOf(timeline), useProject.getState().sources);
};

/** The picture of the open part. */
function pictureNow(): FromStudio {
  const shown = filmNow();
  if (!shown) return { kind: 'picture', film: null };
  const { bytes, width, height } = shown.film;
  return { kind: 'picture', film: { id: shown.source, bytes, width, height } };
}

const mostPieces = 24;

/**
 * Sends pieces of a picture from a byte on, as far as the line takes them; the talent asks for the next ones.
 */
export async function sendFilm(
  id: string,
  from: number,
  send: (bytes: Uint8Array<ArrayBuffer>) => boolean,
): Promise<void> {
  const shown = filmNow();
  const file = shown?.source === id ? await filmFile(id) : null;
  if (!file) return;
  for (let at = from, count = 0; at < file.size && count < mostPieces; at += pieceBytes, count++) {
    const bytes = new Uint8Array(await file.slice(at, at + pieceBytes).arrayBuffer());
    if (!send(writeFilmPiece({ film: filmNumber(id), from: at, bytes }))) return;
  }
}

/** What moves, with moments at which it is heard by somebody whose ears are so many seconds away. */
function movingNow(earsSeconds: number): FromStudio | null {
  const clock = audioClock();
  if (!clock) return null;
  const { mode, rolling, cueRun } = useTransport.getState();
  const { id, caret, timeline } = usePart.getState();
  const part = useProject.getState().parts.find((one) => one.id === id);
  const rate = rateOfProject();
  const begins = rolling ? clock.seconds + rolling.until - performance.now() / 1000 : null;
  const cue = cueRun?.cue ?? (recordSettings().mode === 'cue' ? cueNow() : null);
  const cues = timeline.cueSheet?.cues ?? [];
  const characterOf = (id?: string) => timeline.cueSheet?.characters.find((one) => one.id === id)?.name ?? '';
  const next = cue ? cues[cues.findIndex((one) => one.id === cue.id) + 1] : undefined;
  const lineBegins = cueRun && cueRun.beginsAt !== null ? cueRun.beginsAt : begins;
  const film = filmNow();
  const shown: Moving['cue'] = cue && {
    number: String(cue.number),
    character: short(characterOf(cue.character), 200),
    text: short(cue.text, 20_000),
    note: short(cue.note ?? '', 2000),
    next: short(next?.text ?? '', 20_000),
  };
  return {
    kind: 'moving',
    mode,
    line: Math.min(mostLines, Math.max(0, part?.currentLine ?? 0)),
    at: clock.seconds + earsSeconds,
    heard: (headFrame() ?? caret) / rate,
    begins: lineBegins === null ? null : lineBegins + earsSeconds,
    ends: cueRun && cue && lineBegins !== null ? lineBegins + earsSeconds + (cue.to - cue.from) / rate : null,
    runUpSeconds: Math.min(60, cue ? cueSettings().runUpSeconds : recordSettings().runUpSeconds),
    cue: shown,
    film: film && {
      seconds: runningSeconds(film) ?? standingSeconds(film),
      runs: runningSeconds(film) !== null,
    },
    sweep: cueSettings().sweep,
  };
}

/** Says to somebody who has just come what there is to see. */
export function greet(caller: Caller): void {
  const { project } = useProject.getState();
  const clock = audioClock();
  if (!project || !clock) return;
  caller.send({
    kind: 'welcome',
    version: 1,
    life: clock.life,
    project: short(project.name, 200),
    studio: '',
    you: short(caller.name, 200),
    cleaned: useFar.getState().cleaned,
  });
  caller.send(scriptNow());
  caller.send(pictureNow());
  const moving = movingNow(personOf(caller.key)?.outDelaySeconds ?? 0);
  if (moving) caller.send(moving);
}

const movingMs = 500;

/** Keeps all who are there in step with what is shown here; returns how to stop. */
export function followShowing(callers: () => readonly Caller[]): () => void {
  const said = new Map<string, string>();
  const sayScript = () => {
    if (useFar.getState().status !== 'open') return;
    for (const message of [scriptNow(), pictureNow()]) {
      const text = JSON.stringify(message);
      if (said.get(message.kind) === text) continue;
      said.set(message.kind, text);
      for (const caller of callers()) caller.send(message);
    }
  };
  const sayMoving = () => {
    if (useFar.getState().status !== 'open') return;
    for (const caller of callers()) {
      const message = caller.isOpen && movingNow(personOf(caller.key)?.outDelaySeconds ?? 0);
      if (message) caller.send(message);
    }
  };
  const both = () => {
    sayScript();
    sayMoving();
  };
  const stops = [
    useTransport.subscribe((state, before) => {
      if (state.mode !== before.mode || state.rolling !== before.rolling || state.cueRun !== before.cueRun)
        sayMoving();
    }),
    useProject.subscribe(both),
    usePart.subscribe((state, before) => {
      if (state.id !== before.id || state.caret !== before.caret) both();
    }),
  ];
  const timer = setInterval(sayMoving, movingMs);
  return () => {
    clearInterval(timer);
    for (const stop of stops) stop();
  };
}
