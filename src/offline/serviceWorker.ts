import { answerTo, keptPages, placeholderId } from '@/core/offline/answers';

/**
 * Keeps the application usable with no server (W3C Service Workers). Every version keeps what it consists of
 * in a store of its own, filled before it is installed; a page is always answered from one version alone. A
 * new version waits until the page says that it may take over.
 */
declare const VERSION: string;
declare const FILES: readonly string[];

/** What of a service worker's world is used here; the library for pages has no types for it. */
interface WorkerScope {
  addEventListener(type: 'install' | 'activate', listener: (event: ExtendableEvent) => void): void;
  addEventListener(type: 'fetch', listener: (event: FetchEvent) => void): void;
  addEventListener(type: 'message', listener: (event: MessageEvent) => void): void;
  skipWaiting(): Promise<void>;
  clients: { claim(): Promise<void> };
  location: Location;
}
interface ExtendableEvent {
  waitUntil(promise: Promise<unknown>): void;
}
interface FetchEvent extends ExtendableEvent {
  request: Request;
  respondWith(response: Promise<Response>): void;
}

const scope = self as unknown as WorkerScope;
const prefix = 'parola-';
const store = `${prefix}${VERSION}`;
/** The same in every version: its files never change under their names. */
const laterStore = `${prefix}later`;
const files = new Set(FILES);

/** So many files are fetched at once while a version is installed. */
const atOnce = 6;

async function fetchInto(cache: Cache, path: string): Promise<void> {
  // Not from the browser's own cache: an old page would be kept with new files.
  const response = await fetch(path, { cache: 'reload', credentials: 'same-origin' });
  if (!response.ok) throw new Error(`${path}: ${response.status}`);
  await cache.put(path, response);
}

async function install(): Promise<void> {
  const cache = await caches.open(store);
  const wanted = [...keptPages, ...files];
  const next = async (): Promise<void> => {
    for (let path = wanted.pop(); path !== undefined; path = wanted.pop()) await fetchInto(cache, path);
  };
  await Promise.all(Array.from({ length: atOnce }, next));
}

async function activate(): Promise<void> {
  for (const name of await caches.keys())
    if (name.startsWith(prefix) && name !== store && name !== laterStore) await caches.delete(name);
  await scope.clients.claim();
}

async function page(kept: string, id: string | null, request: Request): Promise<Response> {
  const found = await (await caches.open(store)).match(kept);
  if (!found) return fetch(request);
  if (id === null) return withoutAddress(found);
  const text = (await found.text()).replaceAll(placeholderId, id);
  const headers = new Headers(found.headers);
  // They told of the bytes that were fetched.
  headers.delete('content-length');
  headers.delete('content-encoding');
  return new Response(text, { headers });
}

/**
 * An answer that is not of the address it was fetched from: a worker takes its own address, with all that it
 * is told there, from the answer if it has one (Fetch standard, URL of a response).
 */
const withoutAddress = ({ body, status, headers }: Response) => new Response(body, { status, headers });

async function file(path: string, request: Request): Promise<Response> {
  const found = await (await caches.open(store)).match(path);
  return found ? withoutAddress(found) : fetch(request);
}

async function later(path: string, request: Request): Promise<Response> {
  const cache = await caches.open(laterStore);
  const found = await cache.match(path);
  if (found) return withoutAddress(found);
  const response = await fetch(request);
  if (response.status === 200) await cache.put(path, response.clone());
  return response;
}

scope.addEventListener('install', (event) => event.waitUntil(install()));
scope.addEventListener('activate', (event) => event.waitUntil(activate()));
scope.addEventListener('message', ({ data }) => {
  if (data === 'take over') void scope.skipWaiting();
});
scope.addEventListener('fetch', (event) => {
  const { request } = event;
  const address = new URL(request.url);
  if (address.origin !== scope.location.origin) return;
  const asked = { method: request.method, path: address.pathname, navigates: request.mode === 'navigate' };
  const answer = answerTo(asked, files);
  switch (answer.kind) {
    case 'page':
      return event.respondWith(page(answer.kept, answer.id, request));
    case 'file':
      return event.respondWith(file(answer.path, request));
    case 'later':
      return event.respondWith(later(answer.path, request));
    case 'network':
      return;
  }
});
