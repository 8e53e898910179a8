import { say } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { builtInChains, fitted } from '@/core/chain/builtIn';
import { chainFromJson, chainToJson, readChain, type SavedChain } from '@/core/chain/chainFile';
import { safeName } from '@/core/formats/fileNames';
import { readSetting, writeSetting } from '@/storage/settings';
import type { ReportProgress } from '@/workers/protocol';
import { handOverText, runShown } from '../page/jobs';
import { notify, notifyError } from '../page/notices';
import { usePart } from '../sheet/part';
import { endMeasuringChain, measureChain, useChainMeasures } from './chainMeasures';
import { chainOf, setChain } from './chains';
import { learnFor } from './learning';

const key = 'chains';
const mostBytes = 1e6;

/** Chains of the user's own, kept in this browser for every project. */
export const useChainLibrary = create<{ own: readonly SavedChain[] }>(() => ({ own: [] }));

/** What is stored of a chain and cannot be read any more is left out. */
function readable(stored: unknown): SavedChain[] {
  try {
    return [readChain(stored)];
  } catch {
    return [];
  }
}

export async function readChainLibrary(): Promise<void> {
  try {
    const stored = await readSetting<unknown[]>(key);
    useChainLibrary.setState({ own: (stored ?? []).flatMap(readable) });
  } catch (error) {
    notifyError(error);
  }
}

async function keep(own: readonly SavedChain[]) {
  useChainLibrary.setState({ own });
  await writeSetting(key, own);
}

const builtIn = (name: string) =>
  builtInChains.some((chain) => chain.name.toLowerCase() === name.trim().toLowerCase());

/** Keeps a chain by its name, for every project; one of the same name is replaced. Says whether it did. */
export async function keepChain(chain: SavedChain): Promise<boolean> {
  if (builtIn(chain.name)) {
    notify(
      'error',
      say`“${chain.name}” is one of the chains that come with Parola. Give yours another name.`,
      'projects',
    );
    return false;
  }
  try {
    const { own } = useChainLibrary.getState();
    await keep([...own.filter(({ name }) => name !== chain.name), chain]);
    notify('success', say`“${chain.name}” is kept: every voice of every project can have it.`);
    return true;
  } catch (error) {
    notifyError(error);
    return false;
  }
}

export async function forgetChain(name: string): Promise<void> {
  const { own } = useChainLibrary.getState();
  await keep(own.filter((chain) => chain.name !== name)).catch(notifyError);
}

/** Keeps the chain of a voice under a name, which it has from then on. */
export async function keepChainOf(voice: string, name: string, note: string): Promise<void> {
  const chain = { ...chainOf(usePart.getState().timeline, voice), name };
  if (await keepChain({ ...chain, note })) setChain(voice, chain, say`chain “${name}”`);
}

/** Measures the shown voice as a job that is seen and can be ended; no levels where it says nothing. */
async function measureShown({ signal, progress }: { signal: AbortSignal; progress: ReportProgress }) {
  signal.addEventListener('abort', endMeasuringChain);
  const stop = useChainMeasures.subscribe(({ measuring }) => measuring !== null && progress(measuring));
  try {
    const result = await measureChain();
    return signal.aborted ? null : { levels: result?.work.recorded ?? null };
  } finally {
    stop();
  }
}

/**
 * Gives a voice a saved chain. One that comes with Parola is fitted to its level first, and what has to
 * hear the room alone hears it.
 */
export async function takeChain(voice: string, saved: SavedChain): Promise<void> {
  const { id } = usePart.getState();
  let chain = saved;
  if (builtIn(saved.name)) {
    const measured = await runShown(say`Fitting the chain to the voice`, measureShown);
    if (!measured || usePart.getState().id !== id) return;
    const levels = measured.levels;
    if (levels) chain = fitted(saved, levels.speechDbfs, levels.roomDbfs);
  }
  const { name, steps } = chain;
  setChain(voice, { name, steps }, say`chain “${name}”`);
  const learner = steps.find((step) => step.kind === 'room' && step.on && !step.profile);
  if (learner) await learnFor(voice, learner.id);
}

export const saveChainFile = (chain: SavedChain): void =>
  handOverText(`${safeName(chain.name || 'chain')}.chain.json`, chainToJson(chain));

/** Reads a chain file and keeps what is in it; null when it cannot be used, which has been told. */
export async function openChainFile(file: File): Promise<SavedChain | null> {
  try {
    if (file.size > mostBytes) {
      notify(
        'error',
        say`“${file.name}” is far too large for a chain file: it is something else.`,
        'projects',
      );
      return null;
    }
    const read = chainFromJson(await file.text());
    const name = read.name || file.name.replace(/\.(chain\.)?json$/i, '');
    const chain = { ...read, name: builtIn(name) ? say`${name} (from a file)` : name };
    return (await keepChain(chain)) ? chain : null;
  } catch (thrown) {
    notify('error', `${file.name}: ${toParolaError(thrown).message}`, 'projects');
    return null;
  }
}
