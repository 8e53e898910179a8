// What Next copies as it is, or starts by its file's name, is compiled here, before dev and build: the
// worklets, and the server's workers.
import { build } from 'esbuild';
import { readdirSync } from 'node:fs';

const all = (folder, ending) =>
  readdirSync(folder)
    .filter((name) => name.endsWith(ending))
    .map((name) => `${folder}/${name}`);

const settings = { bundle: true, format: 'esm', target: 'es2022', logLevel: 'warning' };
await build({
  ...settings,
  entryPoints: all('src/audio/worklets', '.worklet.ts'),
  outdir: 'public/worklets',
});
await build({
  ...settings,
  entryPoints: all('src/node', '.worker.ts'),
  outdir: 'build/node',
  outExtension: { '.js': '.mjs' },
  platform: 'node',
  packages: 'external',
  tsconfig: 'tsconfig.json',
});
