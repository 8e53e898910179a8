import type { NextConfig } from 'next';
import { isolation } from './scripts/server/guards.mjs';

/** The server sets the same for whatever the framework does not answer; the policy is set in src/proxy.ts. */
const config: NextConfig = {
  reactStrictMode: true,
  poweredByHeader: false,
  serverExternalPackages: ['mpg123-decoder', 'piscina'],
  headers: async () => [
    { source: '/:path*', headers: Object.entries(isolation).map(([key, value]) => ({ key, value })) },
  ],
};

export default config;
