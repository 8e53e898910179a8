import { decimal } from '@/texts/say';
/** What a meter shows, from left to right, in dBFS. */
const lowestDb = -60;
/** Where the peaks of a voice are to be; *common practice*. */
export const voiceAim = { from: -12, to: -6 } as const;
/** A bar falls by so much a second. */
const fallDbPerSecond = 30;
/** The highest peak stays so long. */
const holdMs = 1500;

export const meterShare = (db: number) => Math.max(0, Math.min(1, (db - lowestDb) / -lowestDb));

interface Shown {
  db: number;
  held: number;
  heldAt: number;
  at: number;
}

const shown = new WeakMap<HTMLElement, Shown>();

/** Writes a peak to the row of a strip: a bar, the highest of the last moments as a line and as a number. */
export function writeMeter(row: HTMLElement, peakDb: number, now: number): void {
  const last = shown.get(row) ?? { db: -Infinity, held: -Infinity, heldAt: 0, at: now };
  const fallen = last.db - (fallDbPerSecond * (now - last.at)) / 1000;
  const db = Math.max(peakDb, fallen);
  const higher = peakDb >= last.held || now - last.heldAt > holdMs;
  const held = higher ? peakDb : last.held;
  shown.set(row, { db, held, heldAt: higher ? now : last.heldAt, at: now });
  const bar = row.querySelector<HTMLElement>('[data-meter=bar]');
  const hold = row.querySelector<HTMLElement>('[data-meter=hold]');
  const text = row.querySelector<HTMLElement>('[data-meter=text]');
  if (bar) bar.style.transform = `scaleX(${meterShare(db).toFixed(3)})`;
  if (hold) hold.style.left = `${(100 * meterShare(held)).toFixed(1)}%`;
  if (hold) hold.style.opacity = Number.isFinite(held) && held > lowestDb ? '1' : '0';
  const told = Number.isFinite(held) ? decimal(held, 1).replace('-', '−') : '';
  if (text && text.textContent !== told) text.textContent = told;
}
