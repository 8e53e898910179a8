import { say } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { safeName } from '@/core/formats/fileNames';
import { builtInSpecs, findSpec } from '@/core/specs/builtIn';
import { upgradeSpec, type Spec } from '@/core/specs/spec';
import { specFromJson, specToJson } from '@/core/specs/specFile';
import { readSetting, writeSetting } from '@/storage/settings';
import { handOverText } from '../page/jobs';
import { notify, notifyError } from '../page/notices';

const key = 'specs';
const mostBytes = 1e6;

/** Specs of the user's own, kept in this browser for every project. */
export const useSpecLibrary = create<{ own: readonly Spec[] }>(() => ({ own: [] }));

export async function readSpecLibrary(): Promise<void> {
  try {
    const stored = await readSetting<unknown[]>(key);
    useSpecLibrary.setState({ own: (stored ?? []).map(upgradeSpec) });
  } catch (error) {
    notifyError(error);
  }
}

/** Every spec there is to choose from, the user's own last. */
export const allSpecs = (own: readonly Spec[]) => [...builtInSpecs, ...own];

export const specNamed = (name: string) => findSpec(name, allSpecs(useSpecLibrary.getState().own));

async function keep(own: readonly Spec[]) {
  useSpecLibrary.setState({ own });
  await writeSetting(key, own);
}

/** Keeps a spec for other projects; one of the same name is replaced. Built-in names stay what they are. */
export async function keepSpec(spec: Spec): Promise<void> {
  if (findSpec(spec.name))
    return notify(
      'error',
      say`“${spec.name}” is one of the specs that come with Parola. Give yours another name, then keep it.`,
      'projects',
    );
  const { own } = useSpecLibrary.getState();
  try {
    await keep([...own.filter(({ name }) => name !== spec.name), spec]);
    notify('success', say`“${spec.name}” is kept: every project can start from it.`);
  } catch (error) {
    notifyError(error);
  }
}

export async function forgetSpec(name: string): Promise<void> {
  const { own } = useSpecLibrary.getState();
  await keep(own.filter((spec) => spec.name !== name)).catch(notifyError);
}

export const saveSpecFile = (spec: Spec): void =>
  handOverText(`${safeName(spec.name)}.spec.json`, specToJson(spec));

/** Reads a spec file; null when it cannot be used, which has been told. */
export async function openSpecFile(file: File): Promise<Spec | null> {
  try {
    if (file.size > mostBytes) {
      notify(
        'error',
        say`“${file.name}” is far too large for a spec file: it is something else.`,
        'projects',
      );
      return null;
    }
    return specFromJson(await file.text());
  } catch (thrown) {
    notify('error', `${file.name}: ${toParolaError(thrown).message}`, 'projects');
    return null;
  }
}
