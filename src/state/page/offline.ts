import { say } from '@/texts/say';
import { create } from 'zustand';
import { notify } from './notices';

/** A version of Parola that is installed and waits until it may take over; null while there is none. */
export const useUpdate = create<{ waiting: ServiceWorker | null }>(() => ({ waiting: null }));

const checkMs = 3_600_000;
/** A new version that does not take over within this has got stuck. */
const takeOverMs = 10_000;
/** What is first on a page is done before: keeping it for later is nothing anybody waits for. */
const afterMs = 3000;

let begun = false;

function follow(registration: ServiceWorkerRegistration) {
  const offer = (worker: ServiceWorker | null) => {
    // The first version of all takes over by itself: there is nothing it could replace.
    if (worker?.state === 'installed' && navigator.serviceWorker.controller)
      useUpdate.setState({ waiting: worker });
  };
  offer(registration.waiting);
  registration.addEventListener('updatefound', () => {
    const worker = registration.installing;
    worker?.addEventListener('statechange', () => offer(worker));
  });
}

/**
 * Keeps the application in this browser, so that it opens with no server, and looks for new versions now and
 * then. Where a browser does not do that, it works as long as the server is there.
 */
export function keepOffline(): void {
  if (begun || process.env.NODE_ENV !== 'production' || !('serviceWorker' in navigator)) return;
  begun = true;
  setTimeout(() => {
    navigator.serviceWorker
      .register('/service-worker.js', { updateViaCache: 'none' })
      .then((registration) => {
        follow(registration);
        setInterval(() => void registration.update().catch(() => undefined), checkMs);
      })
      // No server, or a browser that is told to keep nothing.
      .catch(() => undefined);
  }, afterMs);
}

/**
 * Lets the version that waits take over, and loads the page from it; the caller sees to it that nothing
 * runs.
 */
export function takeUpdate(): void {
  const { waiting } = useUpdate.getState();
  if (!waiting) return;
  const timer = setTimeout(
    () =>
      notify(
        'warning',
        say`The new version did not take over. Close all windows of Parola, then open it again.`,
        'kept',
      ),
    takeOverMs,
  );
  navigator.serviceWorker.addEventListener(
    'controllerchange',
    () => {
      clearTimeout(timer);
      location.reload();
    },
    { once: true },
  );
  waiting.postMessage('take over');
}
