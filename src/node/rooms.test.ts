import { limits, Rooms } from './rooms';

const room = 'R'.repeat(32);
const owner = 'O'.repeat(22);
const talent = '0b5e4a4e-9c1d-4c3f-8d20-5b1d6f0a9c77';
const never = () => new AbortController().signal;
const soon = () => AbortSignal.timeout(20);

function opened(now: { ms: number } = { ms: 0 }) {
  const rooms = new Rooms(() => now.ms);
  const asStudio = (after = 0, signal = soon()) => rooms.read(room, { as: 'studio', owner, after }, signal);
  const fromTalent = (sealed = 'x', to = 'studio') =>
    rooms.leave(room, { from: talent, to, sealed, owner: '' });
  const fromStudio = (sealed = 'x') => rooms.leave(room, { from: 'studio', to: talent, sealed, owner });
  return { rooms, asStudio, fromTalent, fromStudio, now };
}

describe('rooms', () => {
  it('hand letters on, each once, in their order, to whom they are for', async () => {
    const { rooms, asStudio, fromTalent, fromStudio } = opened();
    await asStudio();
    fromTalent('one');
    fromTalent('two');
    const letters = await asStudio();
    expect(letters.map(({ from, sealed }) => [from, sealed])).toEqual([
      [talent, 'one'],
      [talent, 'two'],
    ]);
    expect(await asStudio(letters[1].n + 1)).toEqual([]);
    fromStudio('back');
    const back = await rooms.read(room, { as: talent, owner: '', after: 0 }, soon());
    expect(back.map(({ sealed }) => sealed)).toEqual(['back']);
  });

  it('let whoever waits have a letter as soon as it comes', async () => {
    const { asStudio, fromTalent } = opened();
    await asStudio();
    const waiting = asStudio(0, never());
    fromTalent('now');
    expect((await waiting).map(({ sealed }) => sealed)).toEqual(['now']);
  });

  it('are there only while their studio is', async () => {
    const { asStudio, fromTalent, now } = opened();
    expect(() => fromTalent()).toThrow(/Nobody is in this session/);
    await asStudio();
    now.ms = limits.lifeMs - 1;
    expect(() => fromTalent()).not.toThrow();
    now.ms += limits.lifeMs + 1;
    expect(() => fromTalent()).toThrow(/Nobody is in this session/);
  });

  it('have one studio: nobody else can read its letters or write in its name', async () => {
    const { rooms, asStudio, fromTalent } = opened();
    await asStudio();
    fromTalent();
    const other = 'P'.repeat(22);
    await expect(rooms.read(room, { as: 'studio', owner: other, after: 0 }, soon())).rejects.toThrow(
      /has a studio/,
    );
    await expect(rooms.read(room, { as: 'studio', owner: '', after: 0 }, soon())).rejects.toThrow(
      /has a studio/,
    );
    expect(() => rooms.leave(room, { from: 'studio', to: talent, sealed: '', owner: other })).toThrow(
      /has a studio/,
    );
  });

  it.each(['', 'short', '../../../../etc/passwd-and-more', 'a'.repeat(41), 'ä'.repeat(30)])(
    'have no such name: %s',
    async (name) => {
      const { rooms } = opened();
      await expect(rooms.read(name, { as: 'studio', owner, after: 0 }, soon())).rejects.toThrow();
    },
  );

  it('take no letter that is too long, and no more than so many in a second', async () => {
    const { asStudio, fromTalent, now } = opened();
    await asStudio();
    expect(() => fromTalent('x'.repeat(limits.letterLength + 1))).toThrow(/too long/);
    const tried = (count: number) => {
      let taken = 0;
      for (let i = 0; i < count; i++)
        try {
          fromTalent();
          taken++;
        } catch {
          // Refused.
        }
      return taken;
    };
    expect(tried(100)).toBe(2 * limits.lettersPerSecond);
    now.ms += 1000;
    expect(tried(100)).toBe(limits.lettersPerSecond);
  });

  it('hold so many letters, people and rooms, and no more', async () => {
    const { rooms, asStudio, fromStudio, fromTalent, now } = opened();
    await asStudio();
    for (let i = 0; i < 3 * limits.letters; i++) {
      now.ms += 200;
      fromStudio(String(i));
    }
    const letters = await rooms.read(room, { as: talent, owner: '', after: 0 }, soon());
    expect(letters).toHaveLength(limits.letters);
    const strangers = () => {
      for (let i = 0; i < limits.people + 1; i++) {
        now.ms += 200;
        fromTalent('x', `stranger-${String(i).padStart(20, '0')}`);
      }
    };
    expect(strangers).toThrow(/Too many/);
    const open = async () => {
      for (let i = 0; i < limits.rooms + 1; i++)
        await rooms.read(`${'r'.repeat(24)}${i}`, { as: 'studio', owner, after: 0 }, AbortSignal.abort());
    };
    await expect(open()).rejects.toThrow(/too many sessions/);
  });
});
