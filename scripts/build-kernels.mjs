// Compiles the kernels (src/core/dsp/kernels/assembly) to WebAssembly with SIMD, as base64 in a module: it
// loads the same way in pages, workers, audio worklets and Node. With `--check` nothing is written; it fails
// where what is committed is not what the sources give.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

const folder = 'src/core/dsp/kernels';
const target = `${folder}/module.ts`;

export function compileKernels() {
  const scratch = mkdtempSync(path.join(tmpdir(), 'kernels-'));
  try {
    const output = `${scratch}/kernels.wasm`;
    const flags = '-O3 --noAssert --runtime stub --enable simd --importMemory';
    const compiler = 'node_modules/assemblyscript/bin/asc.js';
    execFileSync(
      process.execPath,
      [compiler, `${folder}/assembly/index.ts`, '--outFile', output, ...flags.split(' ')],
      { stdio: 'inherit' },
    );
    const text = readFileSync(output).toString('base64');
    return `/** Made by scripts/build-kernels.mjs from assembly/. */\nexport const compiled =\n  '${text}';\n`;
  } finally {
    rmSync(scratch, { recursive: true, force: true });
  }
}

if (process.argv[1]?.endsWith('build-kernels.mjs')) {
  const made = compileKernels();
  if (!process.argv.includes('--check')) writeFileSync(target, made);
  else if (readFileSync(target, 'utf8') !== made) {
    console.error(`${target} is not what its sources give: run npm run kernels.`);
    process.exit(1);
  }
}
