import { readHandText, writeHandText } from './handText';
import { isSecret, newSecret, roomOf, seal, unseal } from './secret';

describe('the secret of a link', () => {
  it('has 128 bits, and is another one each time', () => {
    const secrets = Array.from({ length: 200 }, newSecret);
    expect(new Set(secrets).size).toBe(200);
    for (const secret of secrets) {
      expect(isSecret(secret)).toBe(true);
      expect(Buffer.from(secret, 'base64url')).toHaveLength(16);
    }
    expect(['', 'x', `${newSecret()}=`, newSecret().slice(1)].some(isSecret)).toBe(false);
  });

  it('leads to one room, whose name tells nothing of it', async () => {
    const secret = newSecret();
    const name = await roomOf(secret);
    expect(await roomOf(secret)).toBe(name);
    expect(await roomOf(newSecret())).not.toBe(name);
    expect(name).toMatch(/^[\w-]{32}$/);
    expect(name).not.toContain(secret.slice(0, 6));
  });

  it('opens what was sealed with it, of any length; nothing else does', async () => {
    const secret = newSecret();
    for (const text of ['', 'ä€😀', 'x'.repeat(60_000)]) {
      const sealed = await seal(secret, { text });
      expect(sealed).not.toContain('text');
      expect(await unseal(secret, sealed)).toEqual({ text });
      await expect(unseal(newSecret(), sealed)).rejects.toThrow(/not of this session/);
    }
    const sealed = await seal(secret, { a: 1 });
    const changed = `${sealed.slice(0, -4)}${sealed.endsWith('AAAA') ? 'BBBB' : 'AAAA'}`;
    await expect(unseal(secret, changed)).rejects.toThrow(/not of this session/);
    await expect(unseal(secret, 'ä ö')).rejects.toThrow(/not of this session/);
  });
});

describe('a text that people send each other', () => {
  it('is read with whatever a mail has put into it', async () => {
    const secret = newSecret();
    const text = await writeHandText(secret, { sdp: 'v=0'.repeat(900) });
    const mailed = `  ${(text.match(/.{1,72}/g) ?? []).join('\r\n ')}\n`;
    expect(await readHandText(mailed)).toEqual({ secret, value: { sdp: 'v=0'.repeat(900) } });
  });

  it.each(['', 'hello', 'parola-line.short.x', `parola-line.${'a'.repeat(22)}.`])(
    'says when it is none: %s',
    async (text) => {
      await expect(readHandText(text)).rejects.toThrow();
    },
  );
});
