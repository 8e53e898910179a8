/**
 * Measures speed against a reference in the same run and writes docs/benchmarks.md. Figures are medians; what
 * counts are the ratios. `npm run bench -- kills 30` measures only that, that often, and writes only its
 * section; `-- rereadings fit` fits the weights of the search for re-readings and prints them.
 */
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { format, resolveConfig } from 'prettier';
import { benchCore } from './core';
import { benchBrowser } from './browser';
import { benchBooth } from './booth';
import { benchBounds } from './bounds';
import { benchBusy } from './busy';
import { benchExports } from './exports';
import { benchImports, benchSmallImports } from './imports';
import { benchChain } from './chain';
import { benchEdits } from './edits';
import { benchFar } from './far';
import { benchFinish } from './finish';
import { benchKeep } from './keep';
import { benchKills } from './kills';
import { benchLarge } from './large';
import { benchMixing } from './mixing';
import { benchPacking } from './packing';
import { benchPlacements } from './placements';
import { benchRereadings, fitRereadings } from './rereadings';
import type { Row } from './row';
import { benchStaves } from './staves';

const report = 'docs/benchmarks.md';
/** What users have: with all that the browser does beside. */
process.env.CHROMIUM ??= '/usr/bin/chromium';

interface Section {
  title: string;
  run: (count: number) => Promise<Row[]>;
  count: number;
}

const sections: Record<string, Section> = {
  core: { title: 'Core, in Node', run: benchCore, count: 1 },
  edits: { title: 'Edits of a long part, in Node', run: () => Promise.resolve(benchEdits()), count: 1 },
  chain: { title: 'A chain for a voice, in Node', run: benchChain, count: 1 },
  finish: { title: 'A chain for a voice, in Chromium', run: benchFinish, count: 1 },
  mixing: { title: 'Mixing, in Node', run: benchMixing, count: 1 },
  staves: { title: 'Several sounds in one part', run: benchStaves, count: 1 },
  browser: { title: 'In Chromium', run: benchBrowser, count: 1 },
  exports: { title: 'Exporting', run: benchExports, count: 1 },
  imports: { title: 'Importing', run: benchImports, count: 1 },
  small: { title: 'Many small files imported', run: benchSmallImports, count: 120 },
  rereadings: { title: 'Finding re-readings', run: benchRereadings, count: 1 },
  large: { title: 'Long parts', run: benchLarge, count: 1 },
  booth: { title: 'The Booth at rest', run: benchBooth, count: 1 },
  kills: { title: 'Killed while recording', run: benchKills, count: 30 },
  packing: { title: 'Killed while takes are put into larger blocks', run: benchPacking, count: 50 },
  busy: { title: 'Recorded while everything else is busy', run: benchBusy, count: 10 },
  bounds: { title: 'Bounds', run: benchBounds, count: 1 },
  far: { title: 'Somebody far away', run: benchFar, count: 10 },
  keep: { title: 'A copy in a folder', run: benchKeep, count: 5 },
  placements: { title: 'Where punches land', run: benchPlacements, count: 100 },
};

const head = () => {
  const machine = `${cpus()[0].model.trim()}, ${cpus().length} cores, Node ${process.version}`;
  return `# Benchmarks\n\nWritten by \`npm run bench\`: ${machine}. Medians; the machine is shared, so the ratios count.\n`;
};

/** Puts a section into the report, in the place of its older figures. */
async function write(title: string, rows: readonly Row[]) {
  const table = [
    `## ${title}`,
    '',
    `Measured on ${new Date().toISOString().slice(0, 10)}.`,
    '',
    '| what | measured | wanted |',
    '| --- | --- | --- |',
    ...rows.map((row) => `| ${row.join(' | ')} |`),
    '',
  ].join('\n');
  console.log(table);
  const old = existsSync(report)
    ? readFileSync(report, 'utf8')
        .split(/^(?=## )/m)
        .slice(1)
    : [];
  const kept = new Map(
    old.map((section) => [/^## (.*)$/m.exec(section)?.[1] ?? '', section.trimEnd() + '\n']),
  );
  kept.set(title, table);
  // Sections of others (mutants) stay, after those measured here.
  const titles = new Set([...Object.values(sections).map((section) => section.title), ...kept.keys()]);
  const text = [head(), ...[...titles].flatMap((known) => kept.get(known) ?? [])].join('\n');
  writeFileSync(report, await format(text, { ...(await resolveConfig(report)), filepath: report }));
}

async function main() {
  const [only, count] = process.argv.slice(2);
  mkdirSync('.cache', { recursive: true });
  if (only === 'rereadings' && count === 'fit') return fitRereadings();
  const chosen = only ? [sections[only]] : Object.values(sections);
  if (chosen.some((section) => !section)) throw new Error(`One of: ${Object.keys(sections).join(', ')}`);
  for (const section of chosen) await write(section.title, await section.run(Number(count ?? section.count)));
  process.exit(0);
}

void main();
