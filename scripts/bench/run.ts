/**
 * Measures speed against a reference in the same run and writes docs/benchmarks.md. Figures are medians; what counts are the
 * ratios. `npm run bench -- kills 10` or `-- placements 100` runs only that, that often.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { benchCore } from './core';
import { benchBrowser } from './browser';
import { benchKills } from './kills';
import { benchLarge } from './large';
import { benchPlacements } from './placements';
import type { Row } from './row';
import { benchRereadings, fitRereadings } from './rereadings';

async function main() {
  const [only, count] = process.argv.slice(2);
  mkdirSync('.cache', { recursive: true });
  if (only === 'rereadings' && count === 'fit') return fitRereadings();
  const alone = {
    kills: benchKills,
    placements: benchPlacements,
    rereadings: benchRereadings,
    large: benchLarge,
  }[only];
  if (alone) {
    for (const row of await alone(Number(count ?? 10))) console.log(row.join(' | '));
    return process.exit(0);
  }
  const sections: [string, Row[]][] = [
    ['Core, in Node', await benchCore()],
    ['In Chromium', await benchBrowser()],
    ['Finding re-readings', await benchRereadings()],
    ['Long parts', await benchLarge()],
    ['Killed while recording', await benchKills(10)],
    ['Where punches land', await benchPlacements(100)],
  ];
  const tables = sections.map(([title, rows]) =>
    [
      `## ${title}`,
      '',
      '| what | measured | wanted |',
      '| --- | --- | --- |',
      ...rows.map((row) => `| ${row.join(' | ')} |`),
      '',
    ].join('\n'),
  );
  const machine = `${cpus()[0].model.trim()}, ${cpus().length} cores, Node ${process.version}`;
  const head = `# Benchmarks\n\nWritten by \`npm run bench\` on ${new Date().toISOString().slice(0, 10)}: ${machine}. Medians; the machine is shared, so the ratios count.\n`;
  writeFileSync('docs/benchmarks.md', `${head}\n${tables.join('\n')}`);
  console.log(tables.join('\n'));
  process.exit(0);
}

void main();
