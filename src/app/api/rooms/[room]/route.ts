import { object, string, ValidationError } from 'yup';
import { toParolaError, type ErrorCode } from '@/core/base/errors';
import { parseForeignJson } from '@/core/base/json';
import { limits, Rooms } from '@/node/rooms';

/** Of this process: what is in a room is gone with it, and nothing of it is written anywhere. */
const rooms = new Rooms();
const longestWaitMs = 20_000;

const statusOf: Partial<Record<ErrorCode, number>> = {
  'not-found': 404,
  'permission-denied': 403,
  'too-large': 413,
  busy: 429,
};

const letter = object({
  from: string().strict().required().max(64),
  to: string().strict().required().max(64),
  sealed: string().strict().required(),
});

interface Params {
  params: Promise<{ room: string }>;
}

const ownerOf = (request: Request) => request.headers.get('x-parola-owner') ?? '';
const headers = { 'cache-control': 'no-store' };

function refused(thrown: unknown): Response {
  if (thrown instanceof ValidationError || thrown instanceof SyntaxError)
    return Response.json({ error: 'This is no letter.', code: 'unsupported' }, { status: 400, headers });
  const { code, message } = toParolaError(thrown);
  return Response.json({ error: message, code }, { status: statusOf[code] ?? 500, headers });
}

/** POST /api/rooms/NAME: leaves a sealed letter, `{from, to, sealed}`. */
export async function POST(request: Request, { params }: Params): Promise<Response> {
  try {
    const { room } = await params;
    const text = await textOf(request);
    const { from, to, sealed } = letter.validateSync(parseForeignJson(text), { stripUnknown: true });
    rooms.leave(room, { from, to, sealed, owner: ownerOf(request) });
    return Response.json({}, { headers });
  } catch (thrown) {
    return refused(thrown);
  }
}

/** No more of a body is read than a letter can be long. */
async function textOf(request: Request): Promise<string> {
  const most = limits.letterLength + 1000;
  const decoder = new TextDecoder();
  let text = '';
  for await (const chunk of (request.body ?? []) as AsyncIterable<Uint8Array>) {
    text += decoder.decode(chunk, { stream: true });
    if (text.length > most) break;
  }
  return text.slice(0, most);
}

/** GET /api/rooms/NAME?as=WHO&after=N: the letters for WHO, as soon as there are any, within 20 s. */
export async function GET(request: Request, { params }: Params): Promise<Response> {
  try {
    const { room } = await params;
    const query = new URL(request.url).searchParams;
    const after = Number(query.get('after') ?? 0);
    const end = AbortSignal.any([request.signal, AbortSignal.timeout(longestWaitMs)]);
    const asked = {
      as: query.get('as') ?? '',
      owner: ownerOf(request),
      after: Number.isFinite(after) ? after : 0,
    };
    return Response.json({ letters: await rooms.read(room, asked, end) }, { headers });
  } catch (thrown) {
    return refused(thrown);
  }
}
