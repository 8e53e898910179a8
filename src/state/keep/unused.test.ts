import { noise } from '@/core/testing/signals';
import { storedFrames } from '@/storage/blocks';
import { removeUnused, unusedAudio } from '@/storage/space';
import { sourceRecord } from '@/storage/sources';
import { resetStores } from '../page/resets';
import { saved } from '../page/saving';
import { undo } from '../sheet/part';
import { openFresh, recordAudio } from '../testing/fixture';

afterEach(resetStores);

test('what no sheet has is listed with its size and removed; what a sheet has stays, whatever is asked', async () => {
  const { project } = await openFresh('One');
  const heard = await recordAudio(noise(48_000, -20, 1));
  const unheard = await recordAudio(noise(96_000, -20, 2));
  await undo();
  expect(await saved()).toBe(true);
  const listed = await unusedAudio(project.id);
  expect(listed.map(({ id, seconds, partName }) => [id, seconds, partName])).toEqual([
    [unheard.id, 2, 'One'],
  ]);
  expect(listed[0].bytes).toBeCloseTo(96_000 * 4.05, 3);
  await removeUnused(project.id, new Set([heard.id, unheard.id]));
  expect(await sourceRecord(unheard.id)).toBeUndefined();
  expect(await storedFrames(unheard.id)).toBe(0);
  expect(await storedFrames(heard.id)).toBe(48_000);
  expect(await unusedAudio(project.id)).toEqual([]);
});
