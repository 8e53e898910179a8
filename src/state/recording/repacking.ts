import { useTransport } from '../hearing/transport';
import { importClient, useJob } from '../page/jobs';
import { whenProjectCloses } from '../page/resets';
import { useProject } from '../project/openProject';

/** Nothing has been recorded, played or exported for so long. */
const idleMs = 3000;

/** Sources whose blocks have been looked at; what is kept of a source does not change any more. */
const packed = new Set<string>();
/** Sources that could not be packed: tried again when the project is opened anew. */
const failed = new Set<string>();
let timer: ReturnType<typeof setTimeout> | undefined;
let packing: AbortController | null = null;
let watching = false;

const isIdle = () => useTransport.getState().mode === 'idle' && useJob.getState().job === null;

function unpacked(): string[] {
  const { status, readOnly, sources } = useProject.getState();
  if (status !== 'open' || readOnly) return [];
  return [...sources.values()]
    .filter(({ id, state }) => state === 'kept' && !packed.has(id) && !failed.has(id))
    .map(({ id }) => id);
}

/** Looks anew at what there is to do; whatever else begins ends it, between two blocks. */
function consider() {
  clearTimeout(timer);
  if (!isIdle()) packing?.abort();
  else if (!packing && unpacked().length > 0) timer = setTimeout(() => void pack(), idleMs);
}

async function pack() {
  if (!isIdle() || packing) return;
  const { signal } = (packing = new AbortController());
  for (const id of unpacked()) {
    if (signal.aborted) break;
    // The audio is there as it was recorded, whatever happens.
    const work = importClient.run('repack', { sourceId: id }, { signal });
    const done = await work.then(() => true).catch(() => false);
    if (signal.aborted) break;
    (done ? packed : failed).add(id);
  }
  packing = null;
  consider();
}

/**
 * Puts the audio of closed takes into larger blocks whenever nothing else is done: they are read much faster.
 */
export function packWhenIdle(): void {
  if (watching) return;
  watching = true;
  useProject.subscribe(consider);
  useTransport.subscribe(consider);
  useJob.subscribe(consider);
  consider();
}

whenProjectCloses(() => {
  packing?.abort();
  failed.clear();
});
