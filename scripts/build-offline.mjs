// After the build: the service worker, which knows the files of this build and is another one with each.
import { createHash } from 'node:crypto';
import { readFileSync, readdirSync } from 'node:fs';
import path from 'node:path';
import { build } from 'esbuild';

const filesIn = (folder) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => path.join(entry.parentPath, entry.name));

/**
 * Maps are for whoever debugs; TypeScript among the assets is the address of a worker, compiled elsewhere.
 */
const unwanted = /\.(map|ts)$/;
const statics = filesIn('.next/static').filter((file) => !unwanted.test(file));
const worklets = filesIn('public/worklets');
const addresses = [
  ...statics.map((file) => file.replace(/^\.next/, '/_next')),
  ...worklets.map((file) => file.replace(/^public/, '')),
].sort();

const version = createHash('sha256').update(readFileSync('.next/BUILD_ID'));
for (const file of [...statics, ...worklets].sort()) version.update(readFileSync(file));

await build({
  entryPoints: ['src/offline/serviceWorker.ts'],
  outfile: 'public/service-worker.js',
  bundle: true,
  format: 'iife',
  target: 'es2022',
  logLevel: 'warning',
  tsconfig: 'tsconfig.json',
  define: {
    VERSION: JSON.stringify(version.digest('hex').slice(0, 16)),
    FILES: JSON.stringify(addresses),
  },
});
console.log(`service worker: ${addresses.length} files`);
