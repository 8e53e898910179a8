import type { NextConfig } from 'next';
import { isolation } from './scripts/server/guards.mjs';

/** The server sets the same for whatever the framework does not answer; the policy is set in src/proxy.ts. */
const config: NextConfig = {
  reactStrictMode: true,
  poweredByHeader: false,
  // Where types are checked by themselves, the build need not do it a second time.
  typescript: { ignoreBuildErrors: process.env.TYPES_APART === '1' },
  serverExternalPackages: ['mpg123-decoder', 'piscina'],
  headers: async () => [
    { source: '/:path*', headers: Object.entries(isolation).map(([key, value]) => ({ key, value })) },
  ],
};

export default config;
