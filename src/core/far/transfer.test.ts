import { BlocksHere, BlockSender, windowBlocks } from './transfer';

const takeAll = (sender: BlockSender, nowMs: number) => {
  const taken: string[] = [];
  for (let next = sender.take(nowMs); next; next = sender.take(nowMs))
    taken.push(`${next.recording}${next.index}`);
  return taken;
};

describe('sending blocks', () => {
  it('goes on as far as the window, oldest recording first, and on when word comes', () => {
    const sender = new BlockSender();
    sender.grown('a', 2);
    sender.grown('b', 40);
    expect(takeAll(sender, 0)).toEqual([
      'a0',
      'a1',
      ...Array.from({ length: windowBlocks }, (_, i) => `b${i}`),
    ]);
    expect(takeAll(sender, 10)).toEqual([]);
    sender.acknowledged('b', { next: 2, beyond: [] });
    expect(takeAll(sender, 20)).toEqual([`b${windowBlocks}`, `b${windowBlocks + 1}`]);
    expect(sender.sent('b')).toBe(2);
  });

  it('sends again what later blocks have overtaken, and what nothing is heard of', () => {
    const sender = new BlockSender(1000);
    sender.grown('a', 4);
    expect(takeAll(sender, 0)).toHaveLength(4);
    // Sent at one moment: no block has overtaken another.
    sender.acknowledged('a', { next: 0, beyond: [2] });
    expect(takeAll(sender, 100)).toEqual([]);
    expect(takeAll(sender, 1001)).toEqual(['a0', 'a1', 'a3']);
    sender.grown('a', 5);
    expect(takeAll(sender, 1100)).toEqual(['a4']);
    sender.acknowledged('a', { next: 0, beyond: [2, 4] });
    expect(takeAll(sender, 1200)).toEqual(['a0', 'a1', 'a3']);
  });

  it('is not led back by word that later word has overtaken', () => {
    const sender = new BlockSender();
    sender.grown('a', 10);
    takeAll(sender, 0);
    sender.acknowledged('a', { next: 8, beyond: [] });
    sender.acknowledged('a', { next: 3, beyond: [4] });
    expect(sender.sent('a')).toBe(8);
    sender.restart();
    expect(takeAll(sender, 10)).toEqual(['a8', 'a9']);
  });
});

test('blocks that are here are told up to the first gap, and beyond it', () => {
  const here = new BlocksHere([0, 1, 4]);
  expect(here.have).toEqual({ next: 2, beyond: [4] });
  here.add(3);
  here.add(3);
  expect(here.count).toBe(4);
  here.add(2);
  expect(here.have).toEqual({ next: 5, beyond: [] });
  expect([0, 4, 5].map((index) => here.has(index))).toEqual([true, true, false]);
});
