import { say } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { safeName } from '@/core/formats/fileNames';
import { bedsWithoutSound, mixToBeginWith } from '@/core/templates/beginning';
import { builtInTemplates } from '@/core/templates/builtIn';
import {
  furtherOf,
  readTemplate,
  templateFromJson,
  templateToJson,
  type Template,
} from '@/core/templates/template';
import { emptyStaves, type Timeline } from '@/core/timeline/timeline';
import * as storage from '@/storage/projects';
import type { ProjectRecord } from '@/storage/schema';
import { readSetting, writeSetting } from '@/storage/settings';
import { handOverText } from '../page/jobs';
import { notify, notifyError } from '../page/notices';
import { readProjects } from './projects';

const key = 'templates';
const mostBytes = 1e6;
export const templateEnding = '.template.json';

/** Templates of the user's own, kept in this browser. */
export const useTemplates = create<{ own: readonly Template[] }>(() => ({ own: [] }));

/** What is stored of a template and cannot be read any more is left out. */
function readable(stored: unknown): Template[] {
  try {
    return [readTemplate(stored)];
  } catch {
    return [];
  }
}

export async function readTemplates(): Promise<void> {
  try {
    const stored = await readSetting<unknown[]>(key);
    useTemplates.setState({ own: (stored ?? []).flatMap(readable) });
  } catch (error) {
    notifyError(error);
  }
}

/** Every template there is, the user's own last. */
export const allTemplates = (own: readonly Template[]) => [...builtInTemplates, ...own];

export const templateNamed = (name: string): Template | undefined =>
  allTemplates(useTemplates.getState().own).find((template) => template.name === name);

async function keep(own: readonly Template[]) {
  useTemplates.setState({ own });
  await writeSetting(key, own);
}

const isBuiltIn = (name: string) =>
  builtInTemplates.some((template) => template.name.toLowerCase() === name.trim().toLowerCase());

/** Keeps a template by its name; one of the same name is replaced. Says whether it did. */
export async function keepTemplate(template: Template): Promise<boolean> {
  if (isBuiltIn(template.name)) {
    notify(
      'error',
      say`“${template.name}” is one of the templates that come with Parola. Give yours another name.`,
      'projects',
    );
    return false;
  }
  try {
    await readTemplates();
    const { own } = useTemplates.getState();
    await keep([...own.filter(({ name }) => name !== template.name), template]);
    notify('success', say`“${template.name}” is kept: new projects can start from it.`);
    return true;
  } catch (error) {
    notifyError(error);
    return false;
  }
}

export async function forgetTemplate(name: string): Promise<void> {
  const { own } = useTemplates.getState();
  await keep(own.filter((template) => template.name !== name)).catch(notifyError);
}

export const saveTemplateFile = (template: Template): void =>
  handOverText(`${safeName(template.name)}${templateEnding}`, templateToJson(template));

/** Reads a template file and keeps it; its name, or null when it cannot be used, which has been told. */
export async function openTemplateFile(file: File): Promise<string | null> {
  try {
    if (file.size > mostBytes) {
      notify('error', say`“${file.name}” is far too large for a template: it is something else.`, 'projects');
      return null;
    }
    const template = templateFromJson(await file.text());
    return (await keepTemplate(template)) ? template.name : null;
  } catch (thrown) {
    notify('error', `${file.name}: ${toParolaError(thrown).message}`, 'projects');
    return null;
  }
}

/** What a project is like, to begin others with: tracks, chains and beds are those of one of its parts. */
export function templateOf(
  name: string,
  note: string,
  project: ProjectRecord,
  names: readonly string[],
  { tracks, mix }: Pick<Timeline, 'tracks' | 'mix'>,
): Template {
  return readTemplate({
    name,
    note,
    spec: project.spec,
    rateHz: project.rateHz,
    joinMs: project.joinMs,
    parts: [...names],
    further: project.further ?? furtherOf(names),
    tracks: tracks.map(({ id, name: trackName, side }, index) => {
      const route = project.routes?.find(({ track }) => track === id);
      const chain = mix?.strips.find((strip) => strip.id === id)?.chain;
      return {
        name: trackName,
        ...(side && { side }),
        channel: route?.channel ?? index,
        armed: route?.armed ?? index === 0,
        ...(chain && { chain }),
      };
    }),
    beds: bedsWithoutSound(mix),
    recording: project.recording,
    levels: project.levels,
    split: project.split ?? 'sentences',
  });
}

/** Creates a project from a template and returns its id. */
export async function createFromTemplate(name: string, template: Template): Promise<string> {
  const { spec, rateHz, joinMs, recording, levels, further, split, tracks, beds } = template;
  const project = storage.newProject(name, spec, rateHz);
  const staves = tracks.map((track, index) => ({
    id: `track-${index + 1}`,
    name: track.name,
    ...(track.side && { side: track.side }),
  }));
  const chains = tracks.map(({ chain }, index) => ({ id: staves[index].id, chain }));
  const parts = template.parts.map((part) => {
    const mix = mixToBeginWith(chains, beds, storage.newId);
    return storage.newPart(project.id, part, [], { ...emptyStaves(staves), ...(mix && { mix }) });
  });
  const routes = tracks.map(({ channel, armed }, index) => ({ track: staves[index].id, channel, armed }));
  await storage.createProject(
    {
      ...project,
      joinMs,
      further,
      split,
      routes,
      ...(recording && { recording }),
      ...(levels && { levels }),
      openPartId: parts[0].id,
    },
    parts,
  );
  await readProjects();
  return project.id;
}
