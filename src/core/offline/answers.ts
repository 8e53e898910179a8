/**
 * What the service worker answers from its own store, and how. A page of a project is the same for every
 * project but for the id in it: one of each kind is kept, made for an id that no project has.
 */
export const placeholderId = '00000000-0000-4000-8000-000000000000';

const screens = ['brief', 'booth', 'finish', 'proof'] as const;

/** The pages that are kept, by the addresses they are fetched from. */
export const keptPages = ['/', '/help', ...screens.map((screen) => `/project/${placeholderId}/${screen}`)];

/** Ids as `crypto.randomUUID()` makes them (RFC 9562); nothing else is written into a page. */
const uuid = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/;

export type Answer =
  /** The kept page of this address, with the placeholder replaced. */
  | { kind: 'page'; kept: string; id: string | null }
  /** The file as it was when this version was installed. */
  | { kind: 'file'; path: string }
  /** Kept once it has been used: it can be large, and is not needed to work. */
  | { kind: 'later'; path: string }
  | { kind: 'network' };

export interface Asked {
  method: string;
  /** Within the same origin; other origins are never answered. */
  path: string;
  /** A whole page is wanted, not a part of one. */
  navigates: boolean;
}

const network: Answer = { kind: 'network' };

/** How a request is answered; `files` are those of the installed version. */
export function answerTo({ method, path, navigates }: Asked, files: ReadonlySet<string>): Answer {
  if (method !== 'GET') return network;
  if (navigates) {
    if (path === '/' || path === '/help') return { kind: 'page', kept: path, id: null };
    const [, project, id, screen, more] = path.split('/');
    const known = screens.some((one) => one === screen);
    return project === 'project' && known && more === undefined && uuid.test(id)
      ? { kind: 'page', kept: `/project/${placeholderId}/${screen}`, id }
      : network;
  }
  if (files.has(path)) return { kind: 'file', path };
  return path.startsWith('/demo/') ? { kind: 'later', path } : network;
}
