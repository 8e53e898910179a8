import { hostname } from 'node:os';
import { isOwnHost, namesIn, refusal, usualHeaders, usualHost } from './guards.mjs';

const asked = (method: string, headers: Record<string, string | undefined> = {}) =>
  refusal({ method, headers: { host: 'localhost:3000', ...headers } }, usualHost)?.status ?? null;

test('a page is read by any of the names of this machine', () => {
  for (const host of [
    'localhost:3000',
    '127.0.0.1:3000',
    '127.5.6.7',
    '[::1]:3000',
    'parola.localhost',
    'LOCALHOST',
  ])
    expect(asked('GET', { host })).toBeNull();
});

test.each([
  'example.org',
  'localhost.example.org',
  '127.0.0.1.example.org',
  '10.0.0.1',
  '[::2]',
  '',
  undefined,
])('a request for %s is not meant for this server', (host) => expect(asked('GET', { host })).toBe(421));

test('told to listen elsewhere, it answers there too', () => {
  expect(isOwnHost('studio.lan:3000', 'studio.lan')).toBe(true);
  expect(isOwnHost('other.lan:3000', 'studio.lan')).toBe(false);
  for (const own of ['192.168.1.5:3000', '[fe80::1]:3000', hostname(), `${hostname()}.local:3000`])
    expect(isOwnHost(own, '0.0.0.0')).toBe(true);
  expect(isOwnHost('example.org', '0.0.0.0')).toBe(false);
  expect(isOwnHost('example.org', '::')).toBe(false);
});

test.each(['TRACE', 'PUT', 'DELETE', 'CONNECT', 'track'])('%s is no method here', (method) => {
  expect(asked(method)).toBe(405);
});

// Fetch Metadata (W3C): what a browser says of where a request comes from.
test.each([
  [{}, null],
  [{ 'sec-fetch-site': 'same-origin', origin: 'http://localhost:3000' }, null],
  [{ 'sec-fetch-site': 'none' }, null],
  [{ 'sec-fetch-site': 'cross-site' }, 403],
  [{ 'sec-fetch-site': 'same-site' }, 403],
  [{ origin: 'http://localhost:3001' }, 403],
  [{ origin: 'https://example.org' }, 403],
  [{ origin: 'null' }, 403],
])('sent with %j: %s', (headers, status) => {
  expect(asked('POST', headers)).toBe(status);
  // Reading is what links do.
  expect(asked('GET', headers)).toBeNull();
});

test('whatever sets no policy of its own may be framed by nobody, and only this application hears', () => {
  expect(usualHeaders['Content-Security-Policy']).toContain("frame-ancestors 'none'");
  expect(usualHeaders['Permissions-Policy']).toContain('microphone=(self)');
  expect(usualHeaders['Permissions-Policy']).toContain('camera=()');
});

test('published under a name, it answers to that name and to no other', () => {
  const names = namesIn('Studio.example.org:443, voices.example.org');
  expect(names).toEqual(['studio.example.org', 'voices.example.org']);
  expect(isOwnHost('studio.example.org', usualHost, names)).toBe(true);
  expect(isOwnHost('other.example.org', usualHost, names)).toBe(false);
  expect(namesIn(undefined)).toEqual([]);
  const posted = (origin: string) =>
    refusal({ method: 'POST', headers: { host: 'studio.example.org', origin } }, usualHost, names)?.status ??
    null;
  expect(posted('https://studio.example.org')).toBeNull();
  expect(posted('https://elsewhere.example')).toBe(403);
});
