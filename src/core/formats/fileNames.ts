import sanitize from 'sanitize-filename';

/** File systems take 255 bytes; some room is left for “ (1)” and for clients who add their own number. */
const longestBytes = 120;

/** A name every file system takes: spaces become hyphens, forbidden characters and quotes go. Never empty. */
export function safeName(name: string): string {
  const cleaned = sanitize(
    name
      .normalize('NFC')
      .replace(/[/\\:]+/g, '-')
      .replace(/["'“”‘’`]/g, ''),
    { replacement: '' },
  )
    .replace(/\s+/g, '-')
    .replace(/-{2,}/g, '-')
    .replace(/^[-.]+|[-.]+$/g, '');
  let short = '';
  let bytes = 0;
  for (const letter of cleaned) {
    bytes += utf8Bytes(letter);
    if (bytes > longestBytes) break;
    short += letter;
  }
  return short || 'untitled';
}

/** Bytes of one code point in UTF-8 (RFC 3629). */
function utf8Bytes(letter: string): number {
  const code = letter.codePointAt(0) ?? 0;
  return code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
}

/** `{project}_{nn}_{part}.{extension}`; `nn` has as many digits as the number of parts needs, two at least. */
export function partFileName(
  { project, number, parts, part }: { project: string; number: number; parts: number; part: string },
  extension: string,
): string {
  const digits = Math.max(2, String(parts).length);
  return `${safeName(project)}_${String(number).padStart(digits, '0')}_${safeName(part)}.${extension}`;
}
