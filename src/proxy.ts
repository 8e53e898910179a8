import { NextResponse, type NextRequest } from 'next/server';

/**
 * A strict Content-Security-Policy with a nonce per page: nothing is loaded from, or sent to, anywhere but
 * this machine. Development needs eval for its refresh; the built application does not have it.
 */
export function proxy(request: NextRequest) {
  const nonce = Buffer.from(crypto.randomUUID()).toString('base64');
  const evaluate = process.env.NODE_ENV === 'development' ? " 'unsafe-eval'" : '';
  const policy = [
    `default-src 'self'`,
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'${evaluate}`,
    `worker-src 'self'`,
    `style-src 'self' 'nonce-${nonce}'`,
    `style-src-attr 'unsafe-inline'`,
    `img-src 'self' data: blob:`,
    `font-src 'self'`,
    `media-src 'self' blob:`,
    `connect-src 'self' data: blob:`,
    `object-src 'none'`,
    `base-uri 'none'`,
    `form-action 'self'`,
    `frame-ancestors 'none'`,
  ].join('; ');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('Content-Security-Policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('Content-Security-Policy', policy);
  return response;
}

export const config = {
  matcher: [
    {
      source: '/((?!_next/static|worklets|demo|api|icon.svg|icons|service-worker.js|manifest.webmanifest).*)',
    },
  ],
};
