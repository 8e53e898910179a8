/** A file that stands in a copy folder, as it was read back from there. */
export interface CopiedFile {
  bytes: number;
  /** Of the whole file, as 64 hexadecimal digits. */
  sha256: string;
}
/** By paths within the folder of the project. */
export type CopiedFiles = ReadonlyMap<string, CopiedFile>;

/** The lines that `sha256sum` (GNU coreutils) writes and checks, in the order of the paths. */
export function sumsText(files: CopiedFiles): string {
  return [...files]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([path, { sha256 }]) => `${sha256}  ${path}\n`)
    .join('');
}

const line = /^\\?([0-9a-f]{64}) [ *](.+)$/i;

/** Checksums by path; lines that are none are left out. */
export function parseSums(text: string): Map<string, string> {
  return new Map(
    text.split(/\r?\n/).flatMap((one) => {
      const found = line.exec(one);
      return found ? [[found[2], found[1].toLowerCase()] as const] : [];
    }),
  );
}
