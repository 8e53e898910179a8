import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { ParolaError, toParolaError, type ErrorCode } from '@/core/base/errors';
import { reportCsv, reportHtml, reportJson, type Report } from '@/core/specs/report';
import type { Spec } from '@/core/specs/spec';
import { measureApart } from '@/node/measuring';
import { proofsOf, reportOf } from '@/node/proofFile';
import { specFromText } from '@/node/specSource';

const mostBytes = 500e6;

const statusOf: Partial<Record<ErrorCode, number>> = {
  'unknown-spec': 400,
  'not-audio': 415,
  unsupported: 415,
  'damaged-file': 422,
  'too-large': 413,
  cancelled: 499,
  busy: 503,
  'no-answer': 504,
};

const tooLarge = () =>
  new ParolaError(
    'too-large',
    'The file is over 500 MB. Measure it with npm run proof on this machine instead.',
  );

/**
 * POST /api/proof?spec=NAME (or the text of a spec file) with a WAV, AIFF, FLAC or MP3 file as the body: what
 * `npm run proof -- --json` says of it. With `&report=html|csv|json` the report of it, as an export makes it.
 * Nothing is kept.
 */
export async function POST(request: Request): Promise<Response> {
  const query = new URL(request.url).searchParams;
  const spooled = path.join(tmpdir(), `parola-proof-${randomUUID()}`);
  try {
    const spec = specOf(query.get('spec') ?? '');
    const form = query.get('report');
    if (form !== null && !isReport(form))
      throw new ParolaError('unsupported', 'A report is html, csv or json: add &report=html, for example.');
    if (Number(request.headers.get('content-length') ?? 0) > mostBytes) throw tooLarge();
    if (!request.body) throw new ParolaError('not-audio', 'Send an audio file as the body of the request.');
    await spool(request.body, spooled);
    const measured = await measureApart(spooled, query.get('file') ?? 'body', request.signal);
    if (form) return reportResponse(form, reportOf(measured.file, [measured], spec));
    return Response.json(proofsOf([measured], spec)[0]);
  } catch (thrown) {
    const { code, message } = toParolaError(thrown);
    return Response.json({ error: message, code }, { status: statusOf[code] ?? 500 });
  } finally {
    await rm(spooled, { force: true });
  }
}

/** What is wrong with a spec is wrong with the question, not with the file. */
function specOf(text: string): Spec {
  try {
    return specFromText(text, 'Add ?spec=NAME, or the text of a spec file.');
  } catch (thrown) {
    throw new ParolaError('unknown-spec', toParolaError(thrown).message);
  }
}

const reports = {
  html: [reportHtml, 'text/html; charset=utf-8'],
  csv: [reportCsv, 'text/csv; charset=utf-8'],
  json: [reportJson, 'application/json'],
} as const;

const isReport = (form: string): form is keyof typeof reports => Object.hasOwn(reports, form);

/** A report shows its own style and nothing else, wherever it is opened. */
const reportPolicy = "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'";

function reportResponse(form: keyof typeof reports, report: Report): Response {
  const [write, type] = reports[form];
  return new Response(write(report), {
    headers: { 'content-type': type, 'content-security-policy': reportPolicy },
  });
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
