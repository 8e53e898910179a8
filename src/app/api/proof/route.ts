import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { ParolaError, toParolaError, type ErrorCode } from '@/core/base/errors';
import { builtInSpecs, findSpec } from '@/core/specs/builtIn';
import { proofFile } from '@/node/proofFile';

const mostBytes = 500e6;

const statusOf: Partial<Record<ErrorCode, number>> = {
  'unknown-spec': 400,
  'not-audio': 415,
  unsupported: 415,
  'damaged-file': 422,
  'too-large': 413,
};

const tooLarge = () =>
  new ParolaError(
    'too-large',
    'The file is over 500 MB. Measure it with npm run proof on this machine instead.',
  );

/** POST /api/proof?spec=NAME with a WAV or MP3 file as the body: what `npm run proof -- --json` says of it. Nothing is kept. */
export async function POST(request: Request): Promise<Response> {
  const query = new URL(request.url).searchParams;
  const spooled = path.join(tmpdir(), `parola-proof-${randomUUID()}`);
  try {
    const name = query.get('spec') ?? '';
    const spec = findSpec(name);
    if (!spec) {
      const known = builtInSpecs.map((candidate) => candidate.name).join(', ');
      throw new ParolaError(
        'unknown-spec',
        name ? `There is no spec “${name}”. Known: ${known}.` : `Add ?spec=NAME. Known: ${known}.`,
      );
    }
    if (Number(request.headers.get('content-length') ?? 0) > mostBytes) throw tooLarge();
    if (!request.body) throw new ParolaError('not-audio', 'Send an audio file as the body of the request.');
    await spool(request.body, spooled);
    return Response.json(await proofFile(spooled, spec, query.get('file') ?? 'body'));
  } catch (thrown) {
    const { code, message } = toParolaError(thrown);
    return Response.json({ error: message, code }, { status: statusOf[code] ?? 500 });
  } finally {
    await rm(spooled, { force: true });
  }
}

/** To disk as it comes in, so that a large file does not stand in memory. Throws `too-large`. */
async function spool(body: ReadableStream<Uint8Array>, file: string) {
  let bytes = 0;
  async function* counted(chunks: AsyncIterable<Uint8Array>) {
    for await (const chunk of chunks) {
      bytes += chunk.length;
      if (bytes > mostBytes) throw tooLarge();
      yield chunk;
    }
  }
  await pipeline(
    Readable.fromWeb(body as Parameters<typeof Readable.fromWeb>[0]),
    counted,
    createWriteStream(file),
  );
}
