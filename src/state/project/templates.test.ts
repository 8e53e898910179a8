import { builtInTemplates } from '@/core/templates/builtIn';
import { readTemplate } from '@/core/templates/template';
import { defaultDucking } from '@/core/timeline/ducking';
import { loadTimeline } from '@/core/timeline/stored';
import { loadProject } from '@/storage/projects';
import { saved } from '../page/saving';
import { resetStores } from '../page/resets';
import { addFurtherPart } from '../sheet/parts';
import { openPart } from '../sheet/part';
import { openFresh } from '../testing/fixture';
import { useProject } from './openProject';
import { createFromTemplate, templateOf } from './templates';
import { setSplitRule } from './scriptText';

afterEach(resetStores);

async function open(projectId: string) {
  const { project, parts } = await loadProject(projectId);
  useProject.setState({ project, parts, status: 'open', readOnly: false });
  await openPart(parts[0]);
  return { project, parts };
}

test.each(builtInTemplates.map((template) => [template.name, template] as const))(
  'a project that starts from “%s” gives that template again',
  async (_name, template) => {
    const id = await createFromTemplate('New', template);
    const { project, parts } = await open(id);
    expect(parts.map(({ name }) => name)).toEqual(template.parts);
    const names = parts.map(({ name }) => name);
    const again = templateOf(template.name, template.note, project, names, loadTimeline(parts[0].timeline));
    expect(again).toEqual(readTemplate(template));
  },
);

test('further parts go on with the numbers, and have the tracks and the chains', async () => {
  const [audiobook] = builtInTemplates;
  await open(await createFromTemplate('New', audiobook));
  await addFurtherPart();
  await addFurtherPart();
  expect(await saved()).toBe(true);
  const { parts } = await loadProject(useProject.getState().project?.id ?? '');
  expect(parts.map(({ name }) => name).slice(3)).toEqual(['Chapter 2', 'Chapter 3']);
  const [chain, last] = [parts[1], parts[4]].map(
    ({ timeline }) => loadTimeline(timeline).mix?.strips[0].chain?.name,
  );
  expect(last).toBe(chain);
  expect(last).toBe('Quiet booth, one voice');
});

test('each part has the beds, which wait for their sound and know how they go down', async () => {
  const podcast = builtInTemplates[1];
  await open(await createFromTemplate('New', podcast));
  await addFurtherPart();
  expect(await saved()).toBe(true);
  const { parts } = await loadProject(useProject.getState().project?.id ?? '');
  const mixes = parts.map(({ timeline }) => loadTimeline(timeline).mix);
  expect(mixes).toHaveLength(2);
  for (const mix of mixes) {
    expect(mix?.beds).toMatchObject([{ name: 'Music', clips: [] }]);
    expect(mix?.strips).toMatchObject([{ id: mix?.beds[0].id, levelDb: -12, ducking: defaultDucking }]);
  }
  expect(mixes[0]?.beds[0].id).not.toBe(mixes[1]?.beds[0].id);
});

test('what was set in a project is in its template', async () => {
  const { project } = await openFresh('Take 5');
  setSplitRule('paragraphs');
  expect(await saved()).toBe(true);
  const stored = (await loadProject(project.id)).project;
  const tracks = [
    {
      id: 'track-1',
      name: 'Voice',
      table: loadTimeline((await loadProject(project.id)).parts[0].timeline).tracks[0].table,
    },
  ];
  expect(templateOf('Mine', '', stored, ['Take 5'], { tracks })).toMatchObject({
    split: 'paragraphs',
    further: 'Take {n}',
    tracks: [{ name: 'Voice', channel: 0, armed: true }],
  });
});
