import { say } from '@/texts/say';
import { BlobReader, TextWriter, ZipReader, type FileEntry } from '@zip.js/zip.js';
import { ParolaError, cancelled, toParolaError } from '@/core/base/errors';
import { tidied, type ScriptDocument } from '@/core/script/document';
import { readEpub } from '@/core/script/epub';
import { chaptersOfMarkup } from '@/core/script/markup';
import { textOfPages, type PdfPage } from '@/core/script/pdfText';
import type { JobContext } from './protocol';
import type { ScriptJobs } from './scriptJobs';

const unread = (name: string, what: string) =>
  new ParolaError(
    'damaged-file',
    say`“${name}” cannot be read as ${what}. Open it where it was made and save it again, or paste its text.`,
  );

/** Reads the text of a file. Throws ParolaError `damaged-file` or `unsupported`. */
export async function readScript(
  { file, kind }: ScriptJobs['read']['input'],
  context: JobContext,
): Promise<ScriptDocument> {
  const read = { docx: readDocx, epub: readEpubFile, pdf: readPdf }[kind];
  const document = await read(file, context);
  if (document.chapters.length === 0)
    throw new ParolaError(
      'unsupported',
      say`There is no text in “${file.name}”. ${kind === 'pdf' ? say`It may be a picture of pages: ask for the text itself.` : say`Open it where it was made, or paste its text.`}`,
    );
  return document;
}

async function readDocx(file: File): Promise<ScriptDocument> {
  const { convertToHtml } = (await import('mammoth')).default;
  try {
    const bytes = await file.arrayBuffer();
    // In the browser it takes one, in Node the other.
    const input = { arrayBuffer: bytes, buffer: bytes as unknown as Buffer };
    const { value } = await convertToHtml(input, { convertImage: noImages });
    return tidied(chaptersOfMarkup(value));
  } catch {
    throw unread(file.name, 'DOCX');
  }
}

/** A picture is not read aloud. */
const noImages = { __mammothBrand: 'ImageConverter', convert: () => [] } as never;

async function readEpubFile(file: File): Promise<ScriptDocument> {
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false });
  try {
    const entries = new Map((await zip.getEntries()).map((entry) => [entry.filename, entry]));
    return await readEpub(async (path) => {
      const entry = entries.get(path);
      return !entry || entry.directory ? null : (entry as FileEntry).getData(new TextWriter());
    });
  } catch (error) {
    const known = toParolaError(error);
    throw known.code === 'internal' ? unread(file.name, 'EPUB') : known;
  } finally {
    await zip.close().catch(() => undefined);
  }
}

async function readPdf(file: File, { signal, progress }: JobContext): Promise<ScriptDocument> {
  const pdf = await import('pdfjs-dist/legacy/build/pdf.mjs');
  // Its work is done here: this is a worker already.
  const worker = await import('pdfjs-dist/legacy/build/pdf.worker.mjs');
  Object.assign(globalThis, { pdfjsWorker: worker });
  const loading = pdf.getDocument({
    data: new Uint8Array(await file.arrayBuffer()),
    useSystemFonts: false,
    disableFontFace: true,
    isEvalSupported: false,
    verbosity: 0,
  });
  try {
    const document = await loading.promise;
    const pages: PdfPage[] = [];
    for (let number = 1; number <= document.numPages; number++) {
      if (signal.aborted) throw cancelled();
      progress(number / document.numPages, say`Page ${number}`);
      const page = await document.getPage(number);
      const { items } = await page.getTextContent();
      const runs = items.flatMap((item) =>
        'str' in item
          ? [
              {
                text: item.str,
                x: item.transform[4] as number,
                y: item.transform[5] as number,
                width: item.width,
                height: item.height || Math.abs(item.transform[3] as number),
              },
            ]
          : [],
      );
      pages.push({ height: page.view[3] - page.view[1], runs });
      page.cleanup();
    }
    return tidied([{ name: '', text: textOfPages(pages) }]);
  } catch (error) {
    const { name } = error as { name?: string };
    if (name === 'PasswordException')
      throw new ParolaError(
        'unsupported',
        say`“${file.name}” has a password. Open it with the password and save it without, or paste its text.`,
      );
    throw error instanceof ParolaError ? error : unread(file.name, 'PDF');
  } finally {
    await loading.destroy();
  }
}
