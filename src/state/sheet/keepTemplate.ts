import { say } from '@/texts/say';
import { notify } from '../page/notices';
import { saved } from '../page/saving';
import { useProject } from '../project/openProject';
import { keepTemplate, templateOf } from '../project/templates';
import { usePart } from './part';

/** Keeps the open project as a template; its tracks and chains are those of the open part. */
export async function keepOpenAsTemplate(name: string): Promise<void> {
  if (!(await saved()))
    return notify('error', say`What was changed last is not stored yet. Try again in a moment.`, 'kept');
  const { project, parts } = useProject.getState();
  const { id, timeline } = usePart.getState();
  if (!project || id === null) return notify('info', say`A template needs at least one part. Add one first.`);
  const names = parts.map((part) => part.name);
  await keepTemplate(templateOf(name.trim(), '', project, names, timeline));
}
