import { say } from '@/texts/say';
import * as guides from '@/core/timeline/guides';
import { useTransport } from '../hearing/transport';
import { edit } from '../sheet/part';

/** Changes of the guides of the open part; each a step that can be undone, and none while something runs. */
const idle = () => useTransport.getState().mode === 'idle';

export function renameGuide(id: string, name: string): void {
  const trimmed = name.trim();
  if (idle() && trimmed) edit(say`rename guide`, (timeline) => guides.renameGuide(timeline, id, trimmed));
}

export function removeGuide(id: string): void {
  if (idle()) edit(say`remove guide`, (timeline) => guides.removeGuide(timeline, id));
}

/** In step the part keeps the guide's time; without, its time can be edited and the guide goes with it. */
export function setInStep(id: string, inStep: boolean): void {
  if (!idle()) return;
  edit(inStep ? say`in step` : say`let go of step`, (timeline) =>
    inStep ? guides.takeUpStep(timeline, id) : guides.letGo(timeline, id),
  );
}
