/** Bytes of base64 (RFC 4648, 4): audio worklets have no decoder of their own. */
export function bytesOfBase64(text: string): Uint8Array<ArrayBuffer> {
  const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  const values = new Map([...alphabet].map((letter, value) => [letter, value]));
  const letters = text.replace(/=+$/, '');
  const bytes = new Uint8Array(Math.floor((letters.length * 3) / 4));
  let held = 0;
  let bits = 0;
  let at = 0;
  for (const letter of letters) {
    held = ((held << 6) | (values.get(letter) ?? 0)) & 0xffffff;
    bits += 6;
    if (bits < 8) continue;
    bits -= 8;
    bytes[at++] = (held >> bits) & 0xff;
  }
  return bytes;
}
