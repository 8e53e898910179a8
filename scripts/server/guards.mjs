// Whom the server answers, and what every answer carries.
import { isIP } from 'node:net';
import { hostname } from 'node:os';

/** Listens where nobody else can reach it, unless told otherwise. */
export const usualHost = '127.0.0.1';

/** A page is read, and a file is sent to be measured: other methods end here. */
const methods = ['GET', 'HEAD', 'OPTIONS', 'POST'];
const reading = ['GET', 'HEAD', 'OPTIONS'];

/** Cross-origin isolation is what gives the recorder its shared memory. */
export const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'X-Content-Type-Options': 'nosniff',
  'Referrer-Policy': 'no-referrer',
  // The microphone is for this application alone; nothing else of a machine is asked for.
  'Permissions-Policy':
    'microphone=(self), speaker-selection=(self), camera=(), geolocation=(), display-capture=(), midi=(), usb=(), serial=(), hid=(), bluetooth=(), payment=()',
};

/**
 * For whatever sets none of its own: pages have a policy with a nonce (src/proxy.ts). Scripts of workers are
 * among it, and may load what is here. What is shown in a frame of somebody else's can be clicked without
 * being seen.
 */
export const usualHeaders = {
  ...isolation,
  'Content-Security-Policy':
    "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; connect-src 'self' data: blob:; worker-src 'self' blob:; object-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
};

const nameOf = (host) =>
  host
    .replace(/:\d+$/, '')
    .replace(/^\[|\]$/g, '')
    .toLowerCase();
const isLoopback = (name) =>
  name === 'localhost' || name.endsWith('.localhost') || name === '::1' || /^127(\.\d{1,3}){3}$/.test(name);

/**
 * Whether a request that names this host is meant for this server. A foreign name that leads here is how a
 * page elsewhere reaches what listens on this machine. `names` are those by which a studio publishes it.
 */
export function isOwnHost(header, listensOn, names = []) {
  if (!header) return false;
  const name = nameOf(header);
  if (isLoopback(name) || name === nameOf(listensOn) || names.includes(name)) return true;
  const everywhere = listensOn === '0.0.0.0' || listensOn === '::';
  const machine = hostname().toLowerCase();
  return everywhere && (isIP(name) > 0 || name === machine || name === `${machine}.local`);
}

/** Names in a list with commas, as they stand in an environment. */
export const namesIn = (text = '') =>
  text
    .split(',')
    .map((name) => nameOf(name.trim()))
    .filter(Boolean);

/** Why a request is not answered, as { status, text }; null when it is. */
export function refusal({ method, headers }, listensOn, names = []) {
  if (!methods.includes(method)) return { status: 405, text: `This server does not answer to ${method}.` };
  if (!isOwnHost(headers.host, listensOn, names))
    return { status: 421, text: 'This server answers at its own address only.' };
  if (reading.includes(method)) return null;
  const site = headers['sec-fetch-site'];
  const { origin } = headers;
  const foreign =
    (site !== undefined && site !== 'same-origin' && site !== 'none') ||
    (origin !== undefined && !isSameHost(origin, headers.host));
  return foreign ? { status: 403, text: 'Pages from elsewhere may not send anything here.' } : null;
}

function isSameHost(origin, host) {
  try {
    return new URL(origin).host === host;
  } catch {
    return false;
  }
}

export const allowed = methods.join(', ');
