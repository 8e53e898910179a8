import { readdirSync, readFileSync } from 'node:fs';
import { Meter } from '@/core/loudness/measure';
import { decodeMp3 } from '@/core/formats/mp3Decoder';
import { summaryOf } from '@/workers/takeListener';

type Summary = ReturnType<typeof summaryOf>;

/** What the list of takes says of every recording of the demo: measured once, not on each first visit. */
export async function summariesOf(folder: string, rateHz: number): Promise<Record<string, Summary>> {
  const summaries: Record<string, Summary> = {};
  for (const file of readdirSync(folder)
    .filter((name) => name.endsWith('.mp3'))
    .sort()) {
    const meter = new Meter(rateHz, 1);
    async function* bytes() {
      yield new Uint8Array(readFileSync(`${folder}/${file}`));
    }
    for await (const audio of decodeMp3(bytes(), () => ({ truncated: false, damaged: false })))
      meter.process(audio);
    summaries[file] = summaryOf(meter.finish());
  }
  return summaries;
}
