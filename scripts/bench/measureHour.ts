// Measures a sound file and says what the measuring alone took; bundled and run as a process of its own.
import { writeFileSync } from 'node:fs';
import { readSound } from '@/core/formats/readSound';
import { Meter } from '@/core/loudness/measure';
import { FileSource } from '@/node/fileSource';

const seconds = ({ user, system }: NodeJS.CpuUsage) => (user + system) / 1e6;

async function main() {
  const source = await FileSource.open(process.argv[2]);
  let meter: Meter | null = null;
  let alone = 0;
  const measuring = (work: () => void) => {
    const before = process.cpuUsage();
    work();
    alone += seconds(process.cpuUsage(before));
  };
  for await (const audio of readSound(
    source,
    ({ rateHz, channels }) => (meter = new Meter(rateHz, channels)),
  ))
    measuring(() => (meter as Meter | null)?.process(audio));
  measuring(() => (meter as Meter | null)?.finish());
  await source.close();
  const residentMb = process.resourceUsage().maxRSS / 1024;
  writeFileSync(process.argv[3], JSON.stringify({ alone, residentMb }));
}

void main();
