import { say } from '@/texts/say';
import { create } from 'zustand';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';

/** The window in which the picture is seen by itself, while there is one. */
export const useFilmWindow = create<{ view: Window | null }>(() => ({ view: null }));

const closed = () => useFilmWindow.setState({ view: null });

export function closeFilmWindow(): void {
  const { view } = useFilmWindow.getState();
  closed();
  view?.close();
}
whenProjectCloses(closeFilmWindow);

/** Opens a window for the picture, for a second screen; closes it where it is open. */
export function toggleFilmWindow(): void {
  if (useFilmWindow.getState().view) return closeFilmWindow();
  const view = window.open('', 'parola-picture', 'popup,width=1024,height=640');
  if (!view)
    return notify(
      'warning',
      say`The browser lets no window open here: allow pop-up windows for this address.`,
      'cues',
    );
  view.document.title = say`Parola: picture`;
  const { fontFamily } = getComputedStyle(document.body);
  Object.assign(view.document.body.style, { margin: 0, background: '#000', overflow: 'hidden', fontFamily });
  for (const sheet of document.querySelectorAll('link[rel=stylesheet]'))
    view.document.head.append(view.document.importNode(sheet, true));
  view.addEventListener('pagehide', closed);
  useFilmWindow.setState({ view });
}

// It shows nothing without the page it belongs to.
globalThis.addEventListener?.('pagehide', closeFilmWindow);
