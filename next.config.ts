import type { NextConfig } from 'next';

/**
 * Cross-origin isolation is what gives the recorder its shared memory; the policy itself is set in
 * src/proxy.ts.
 */
const isolation = [
  { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
  { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
  { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
  { key: 'X-Content-Type-Options', value: 'nosniff' },
  { key: 'Referrer-Policy', value: 'no-referrer' },
];

const config: NextConfig = {
  reactStrictMode: true,
  poweredByHeader: false,
  serverExternalPackages: ['mpg123-decoder'],
  headers: async () => [{ source: '/:path*', headers: isolation }],
};

export default config;
