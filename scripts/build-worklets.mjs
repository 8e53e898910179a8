// Next copies worklets as they are, so they are compiled here, before dev and build.
import { build } from 'esbuild';
import { readdirSync } from 'node:fs';

const folder = 'src/audio/worklets';
await build({
  entryPoints: readdirSync(folder)
    .filter((name) => name.endsWith('.worklet.ts'))
    .map((name) => `${folder}/${name}`),
  outdir: 'public/worklets',
  bundle: true,
  format: 'esm',
  target: 'es2022',
  logLevel: 'warning',
});
