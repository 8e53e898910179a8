import { say } from '@/texts/say';
import { object, string } from 'yup';
import { toParolaError } from '@/core/base/errors';
import { readFromStudio, writeMessage, type FromStudio } from '@/core/far/messages';
import { RateBound } from '@/core/base/rateBound';
import { TalentSide } from '@/core/far/talentSide';
import { RoomMail } from '@/net/mail';
import { writeHandText } from '@/net/handText';
import { openMs, PeerLine, type Line, type LineEvents } from '@/net/peer';
import { roomOf } from '@/net/secret';
import { Weathered } from '@/net/weather';
import { newId } from '@/storage/projects';
import { readSetting, writeSetting } from '@/storage/settings';
import { audioClock } from '../far/clock';
import { helpersSchema, type Helper } from '../far/helpers';
import {
  allEnded,
  blockToSend,
  endTake,
  markKept,
  noteRecording,
  recordTake,
  showSent,
  storedRecordings,
} from './ownRecordings';
import {
  cleanLine,
  closeMicrophone,
  delayLine,
  hearStudio,
  levelNow,
  lineSound,
  microphoneHello,
} from './microphone';
import { onPull, pullOn, showPicture, takePiece } from './film';
import { onStudioClock } from './studioClock';
import { useTalent } from './talent';

/** Who this is in a room, so that a reload is no stranger. */
export interface Identity {
  readonly key: string;
  readonly name: string;
  readonly consentAt: number;
}

const settingOf = (room: string) => `talent/${room}`;
export const readIdentity = async (secret: string) => readSetting<Identity>(settingOf(await roomOf(secret)));
export const writeIdentity = async (secret: string, identity: Identity) =>
  writeSetting(settingOf(await roomOf(secret)), identity);

const letter = object({
  kind: string().strict().required().oneOf(['offer', 'wait', 'refused']),
  sdp: string().max(40_000),
  helpers: helpersSchema.notRequired(),
});

/** A line that is offered, with the servers that help to find each other. */
export interface Offer {
  readonly sdp: string;
  readonly helpers: readonly Helper[];
}

const beatMs = 100;
const levelMs = 500;
const earsMs = 2000;
/** The studio is asked so often to let one in, or to open a line again. */
const knockMs = 3000;
/** So much may wait to be sent: enough to keep a fast line busy, little enough that words are not held up. */
const mostWaitingBytes = 400_000;
const mostTexts = 60;

interface Session {
  readonly secret: string;
  readonly room: string;
  readonly identity: Identity;
  /** None where people carry the texts. */
  readonly mail: RoomMail | null;
  readonly side: TalentSide;
  /** A network to practise with. */
  weather: Weathered | null;
  readonly bound: RateBound;
  line: Line | null;
  /** A line that is being opened. */
  offered: PeerLine | null;
  timers: ReturnType<typeof setInterval>[];
  sending: boolean;
}

let session: Session | null = null;

/**
 * Goes to the studio's door, and stays there until the talent leaves: a line that is down is opened again by
 * itself, and what was recorded is sent. An `offer` has
 * come as a text, and is answered by one.
 */
export async function join(secret: string, identity: Identity, offer: Offer | null = null): Promise<void> {
  const clock = audioClock();
  if (session || !clock) return;
  lastIdentity = identity;
  const room = await roomOf(secret);
  const stored = await storedRecordings(room);
  useTalent.setState({ step: 'session', own: stored, line: 'door', ended: '' });
  const side: TalentSide = new TalentSide(
    clock.life,
    { key: identity.key, name: identity.name, consentAt: identity.consentAt, ...microphoneHello() },
    {
      send: (message) => sendText(writeMessage(message)),
      begin: (take, atSeconds) =>
        recordTake(room, clock.life, take, atSeconds, {
          began: (recording) => side.began(recording),
          grown: (id, frames, closed) => side.grown(id, frames, closed),
          failed: (code, text) => {
            side.failed(take.id, code, text);
            useTalent.setState({ trouble: text });
          },
        }),
      end: endTake,
      note: (recording) => noteRecording(recording, identity.key),
      show,
      kept: markKept,
    },
    stored.filter(({ kept }) => !kept).map(({ recording }) => recording),
  );
  const mail =
    offer === null
      ? new RoomMail(secret, identity.key, '', {
          letter: (_from, value) => void receive(value).catch(() => undefined),
          reached: (error) => useTalent.setState({ unreached: error?.message ?? '' }),
        })
      : null;
  session = {
    secret,
    room,
    identity,
    mail,
    side,
    weather: weatherNow(),
    bound: new RateBound(mostTexts),
    line: null,
    offered: null,
    timers: [],
    sending: false,
  };
  session.timers = [
    setInterval(beat, beatMs),
    setInterval(sayLevel, levelMs),
    setInterval(() => void sayEars(), earsMs),
    setInterval(knock, knockMs),
  ];
  if (offer === null) return knock();
  const sdp = await answer(session, offer, openMs.byHand);
  const { key, name } = identity;
  useTalent.setState({ answerText: await writeHandText(secret, { key, name, sdp }) });
}

function weatherNow(): Weathered | null {
  const { weather } = useTalent.getState();
  return weather && new Weathered(weather, 1);
}

/** The network of a guest who practises is another one from now on. */
export function followWeather(): void {
  if (session) session.weather = weatherNow();
  delayLine();
}

function knock() {
  if (!session?.mail || session.line || session.offered) return;
  void session.mail
    .post('studio', { kind: 'knock', name: session.identity.name })
    .catch((thrown: unknown) => {
      useTalent.setState({ unreached: toParolaError(thrown).message });
    });
}

async function receive(value: unknown): Promise<void> {
  const { kind, sdp = '', helpers } = letter.validateSync(value, { stripUnknown: true });
  if (!session) return;
  if (kind === 'wait') {
    if (!session.line) useTalent.setState({ line: 'waiting' });
  } else if (kind === 'refused') {
    leave(say`The studio has not let you in.`);
    useTalent.setState({ line: 'refused' });
  } else {
    const { mail } = session;
    const answered = await answer(session, { sdp, helpers: helpers ?? [] });
    await mail?.post('studio', { kind: 'answer', sdp: answered });
  }
}

async function answer(mine: Session, { sdp: offer, helpers }: Offer, ms?: number): Promise<string> {
  mine.offered?.close();
  mine.line?.close();
  useTalent.setState({ line: 'opening' });
  const taken = (data: string) => takeText(mine, data);
  const events: LineEvents = {
    text: (data) => (mine.weather ? mine.weather.receive(taken)(data) : taken(data)),
    bytes: (data) => (mine.weather ? mine.weather.receive(takeFilm)(data) : takeFilm(data)),
    opened() {
      if (session !== mine) return line.close();
      mine.offered = null;
      mine.line = line;
      useTalent.setState({ line: 'open', unreached: '', trouble: '', answerText: '' });
      mine.side.connect();
    },
    closed() {
      if (mine.offered === line) mine.offered = null;
      if (mine.line === line) {
        mine.line = null;
        mine.side.disconnect();
      }
      if (session === mine && !mine.line) useTalent.setState({ line: 'away' });
    },
    sound: hearStudio,
  };
  const { line, sdp } = await PeerLine.answer([...helpers], offer, lineSound(), events, ms);
  mine.offered = line;
  return sdp;
}

function sendText(data: string) {
  if (!session?.line) return;
  (session.weather?.send(session.line) ?? session.line).sendText(data);
}

function takeText(mine: Session, data: string) {
  const clock = audioClock();
  if (session !== mine || !clock || !mine.bound.take(performance.now())) return;
  const parsed = readFromStudio(data);
  if ('message' in parsed) mine.side.receive(parsed.message, clock.seconds, performance.now());
}

function takeFilm(data: Uint8Array<ArrayBuffer>) {
  try {
    takePiece(data);
  } catch {
    // It is asked for again.
  }
}

function show(message: Extract<FromStudio, { kind: 'welcome' | 'script' | 'moving' | 'picture' | 'bye' }>) {
  switch (message.kind) {
    case 'welcome':
      void cleanLine(message.cleaned).then((track) => track && session?.line?.sendSound(track));
      return useTalent.setState({ project: message.project });
    case 'script':
      return useTalent.setState({ script: message });
    case 'moving':
      return useTalent.setState({ moving: message });
    case 'picture':
      return showPicture(message.film);
    case 'bye':
      return leave(message.reason);
  }
}

onStudioClock(() => session?.side.clock ?? null);
onPull((film, from) => sendText(writeMessage({ kind: 'pull', film, from })));

// — Beating —

function beat() {
  const clock = audioClock();
  if (!session || !clock) return;
  session.side.beat(clock.seconds, performance.now());
  if (session.line) pullOn();
  void sendBlocks(session);
}

async function sendBlocks(mine: Session): Promise<void> {
  if (mine.sending) return;
  mine.sending = true;
  try {
    while (mine.line && mine.line.waitingBytes < mostWaitingBytes) {
      const { line } = mine;
      const next = mine.side.nextBlock(performance.now());
      if (!next) break;
      const bytes = await blockToSend(next.recording, next.index);
      // It is asked for again when it has not come.
      if (!bytes) break;
      (mine.weather?.send(line) ?? line).sendBytes(bytes);
    }
  } catch (thrown) {
    useTalent.setState({ trouble: toParolaError(thrown).message });
  } finally {
    mine.sending = false;
  }
  for (const { id } of mine.side.unsent) showSent(id, mine.side.sent(id));
}

function sayLevel() {
  const level = levelNow();
  if (session?.line && level) sendText(writeMessage({ kind: 'level', ...level }));
}

async function sayEars() {
  const figures = await session?.line?.measure().catch(() => null);
  if (figures)
    sendText(
      writeMessage({ kind: 'held', seconds: figures.bufferSeconds && Math.min(5, figures.bufferSeconds) }),
    );
}

/**
 * Leaving ends the microphone; what has not been sent stays here, and is sent when the talent comes again.
 */
export function leave(reason = ''): void {
  const mine = session;
  if (!mine) return;
  for (const { id, closed } of mine.side.unsent) if (!closed) endTake(id, audioClock()?.seconds ?? 0);
  sendText(writeMessage({ kind: 'bye', reason: reason ? '' : say`The talent has left.` }));
  session = null;
  for (const timer of mine.timers) clearInterval(timer);
  mine.mail?.close();
  const { line } = mine;
  setTimeout(() => line?.close(), 200);
  mine.offered?.close();
  // What is being written comes to its end first.
  void allEnded().then(closeMicrophone);
  useTalent.setState({ step: 'left', line: 'none', recording: false, ended: reason, moving: null });
}

let lastIdentity: Identity | null = null;
/** The key by which the studio knows this browser; null before anybody has gone in. */
export const whoIsThis = (): string | null => lastIdentity?.key ?? null;

/** Who this is from now on, with the consent that was just given. */
export const newIdentity = (name: string, key: string = newId()): Identity => ({
  key,
  name,
  consentAt: Date.now(),
});
