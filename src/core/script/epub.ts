import { say } from '../../texts/say';
import { parseDocument, DomUtils } from 'htmlparser2';
import { ParolaError } from '../base/errors';
import { tidied, type Chapter, type ScriptDocument } from './document';
import { chaptersOfMarkup, firstHeading } from './markup';

const broken = () =>
  new ParolaError(
    'damaged-file',
    say`This EPUB is not whole: its list of chapters cannot be read. Try another copy, or paste the text.`,
  );

const xml = (text: string) => parseDocument(text, { xmlMode: true }).children;
type Nodes = ReturnType<typeof xml>;

/** Elements by their name without a prefix. */
const named = (name: string, nodes: Nodes) =>
  DomUtils.filter((node) => DomUtils.isTag(node) && node.name.replace(/^.*:/, '') === name, nodes).filter(
    DomUtils.isTag,
  );

/** A path in the archive, from an address in one of its files (RFC 3986, 5.2). */
function resolved(address: string, base: string): string {
  const [plain] = address.split(/[#?]/);
  const steps = [...base.split('/').slice(0, -1), ...decodeURIComponent(plain).split('/')];
  const path: string[] = [];
  for (const step of steps) {
    if (step === '..') path.pop();
    else if (step !== '.' && step !== '') path.push(step);
  }
  return path.join('/');
}

/**
 * The chapters of an EPUB (W3C EPUB 3.3, and EPUB 2): the files of its spine in their order, without the
 * table of contents. `read` gives the text of a file of the archive, null where there is none. Throws
 * ParolaError `damaged-file`, or `unsupported` where the text is encrypted.
 */
export async function readEpub(read: (path: string) => Promise<string | null>): Promise<ScriptDocument> {
  const container = await read('META-INF/container.xml');
  const rootPath = container && named('rootfile', xml(container))[0]?.attribs['full-path'];
  const packageText = rootPath ? await read(rootPath) : null;
  if (!rootPath || !packageText) throw broken();
  if (await isEncrypted(read)) {
    throw new ParolaError(
      'unsupported',
      say`The text of this EPUB is encrypted, so nothing but its own reader can open it. Ask for one that is not.`,
    );
  }
  const root = xml(packageText);
  const items = new Map(named('item', root).map(({ attribs }) => [attribs.id, attribs]));
  const chapters: Chapter[] = [];
  for (const { attribs } of named('itemref', root)) {
    const item = items.get(attribs.idref);
    if (!item?.href || /\bnav\b/.test(item.properties ?? '')) continue;
    if (!/html|xml/.test(item['media-type'] ?? 'html')) continue;
    const text = await read(resolved(item.href, rootPath));
    if (text === null) throw broken();
    chapters.push(...ofFile(text));
  }
  return tidied(chapters);
}

/** A file of the spine is a chapter, or several where it has headings of the highest level. */
function ofFile(markup: string): Chapter[] {
  const [before, ...headed] = chaptersOfMarkup(markup);
  if (headed.length > 1) return [before, ...headed];
  const text = [before, ...headed].map((chapter) => chapter.text).join('\n\n');
  return [{ name: headed[0]?.name || firstHeading(markup), text }];
}

/** Fonts may be encrypted without anybody minding; text may not. */
async function isEncrypted(read: (path: string) => Promise<string | null>): Promise<boolean> {
  const text = await read('META-INF/encryption.xml');
  if (!text) return false;
  return named('CipherReference', xml(text)).some(({ attribs }) => /html?$/i.test(attribs.URI ?? ''));
}
