import { say } from '@/texts/say';
import { object, string, ValidationError } from 'yup';
import { ParolaError } from '@/core/base/errors';
import { RoomMail } from '@/net/mail';
import { readHandText, writeHandText } from '@/net/handText';
import { openMs, PeerLine, type LineEvents } from '@/net/peer';
import { newSecret } from '@/net/secret';
import { newId } from '@/storage/projects';
import { startEngine } from '../hearing/engine';
import { notify, notifyError } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { rateOfProject, sourceList, useProject } from '../project/openProject';
import { Caller } from './caller';
import { readHelpers } from './helpers';
import { changePerson, personOf, seats, useFar, type Person } from './far';
import { changeSession, note, readSession, sessionNow, type KnownPerson } from './log';
import { greet, sendFilm } from './showing';
import { closeDesk, patchIn, patchOut, unpatchAll } from './sound';

/** What a talent's page says in a letter. */
const knock = object({
  kind: string().strict().required().oneOf(['knock']),
  name: string().strict().required().max(60),
});
const answer = object({
  kind: string().strict().required().oneOf(['answer']),
  sdp: string().strict().required().max(40_000),
});

const callers = new Map<string, Caller>();
const offered = new Map<string, PeerLine>();
let mail: RoomMail | null = null;
let opening = 0;

export const callerOf = (key: string): Caller | undefined => callers.get(key);
/**
 * What has come of somebody whose voice is in a take, whether or not they can still come in themselves. Null
 * for somebody else.
 */
export function callerOfVoice(key: string): Caller | null {
  const voice = sourceList()
    .flatMap(({ line }) => line?.voices ?? [])
    .find(({ person }) => person === key);
  return callers.get(key) ?? (voice ? callerFor(key, voice.name, personOf(key)?.seat ?? 0) : null);
}

export const allCallers = (): readonly Caller[] => [...callers.values()];

/** The link to send to a talent. What is after the # never reaches any server. */
export const linkOf = (secret: string) => `${location.origin}/talent#${secret}`;

let openingNow: Promise<void> | null = null;

/**
 * Opens the project's session: the link is the one it had, until a new one is asked for. Resolves when it is
 * open, whoever asked for it first, or when it has been told why it cannot be.
 */
export function openSession(): Promise<void> {
  openingNow ??= open().finally(() => (openingNow = null));
  return openingNow;
}

async function open(): Promise<void> {
  const { project, readOnly } = useProject.getState();
  if (!project || readOnly || useFar.getState().status !== 'closed') return;
  const mine = ++opening;
  useFar.setState({ status: 'opening' });
  try {
    await startEngine(rateOfProject());
    const known = await readSession();
    if (mine !== opening) return;
    const session = known ?? { secret: newSecret(), owner: newSecret(), people: [], log: [] };
    const { secret, owner, people, log, cleaned = false } = session;
    changeSession(session);
    useFar.setState({ status: 'open', secret, unreached: '', log, cleaned, people: people.map(away) });
    mail = new RoomMail(secret, 'studio', owner, {
      letter: (from, value) => void receive(from, value).catch(tellFault),
      reached: (error) => useFar.setState({ unreached: error?.message ?? '' }),
    });
    note('Studio', say`Session opened.`);
    // What has come before is shown, and laid where it is whole, before anybody comes.
    for (const { key, name, seat } of people) await callerFor(key, name, seat).ready();
  } catch (thrown) {
    useFar.setState({ status: 'closed' });
    notifyError(thrown, 'far');
  }
}

const away = ({ key, name, seat }: { key: string; name: string; seat: number }): Person => ({
  ...stranger(key, name),
  seat,
  state: 'away',
});

const stranger = (key: string, name: string): Person => ({
  key,
  name,
  state: 'knocking',
  seat: null,
  hello: null,
  level: null,
  delaySeconds: 0.15,
  outDelaySeconds: 0.15,
  lost: null,
  trouble: '',
});

/** How the line sounds: as the microphone does, or with echo and noise taken out. */
export function setCleaned(cleaned: boolean): void {
  useFar.setState({ cleaned });
  for (const caller of callers.values()) if (caller.isOpen) greet(caller);
  changeSession({ cleaned });
}

/** Nobody can come with the old link any more; who is there stays until they leave. */
export async function renewLink(): Promise<void> {
  if (useFar.getState().status !== 'open') return;
  changeSession({ secret: newSecret(), owner: newSecret(), people: [] });
  closeSession(say`The studio has made a new link. Ask for it.`, true);
  await openSession();
}

/** `inputStays` where another session follows: what is recorded goes on. */
export function closeSession(reason = say`The studio has closed the session.`, inputStays = false): void {
  opening++;
  if (useFar.getState().status === 'open') note('Studio', say`Session closed.`);
  for (const caller of callers.values()) caller.close(reason);
  for (const line of offered.values()) line.close();
  callers.clear();
  offered.clear();
  mail?.close();
  mail = null;
  if (inputStays) unpatchAll();
  else closeDesk();
  useFar.setState({
    status: 'closed',
    people: [],
    secret: '',
    unreached: '',
    talking: false,
    ownMicrophone: false,
  });
}

whenProjectCloses(() => closeSession());

// — Coming and going —

async function receive(from: string, value: unknown): Promise<void> {
  const kind = (value as { kind?: unknown } | null)?.kind;
  if (kind === 'knock') return knocked(from, knock.validateSync(value, { stripUnknown: true }).name);
  if (kind === 'answer')
    await offered.get(from)?.accept(answer.validateSync(value, { stripUnknown: true }).sdp);
}

function tellFault(thrown: unknown) {
  // What somebody with the link makes up is nothing the studio can do anything about.
  if (!(thrown instanceof ValidationError)) notifyError(thrown, 'far');
}

async function knocked(key: string, name: string): Promise<void> {
  const known = personOf(key);
  if (known?.state === 'refused') return tellTo(key, { kind: 'refused' });
  if (known?.seat !== null && known?.seat !== undefined) return call(known);
  if (!known) {
    if (useFar.getState().people.length >= 4 * seats) return tellTo(key, { kind: 'refused' });
    useFar.setState(({ people }) => ({ people: [...people, stranger(key, name.trim() || say`Somebody`)] }));
    notify(
      'info',
      say`${name.trim() || say`Somebody`} is at the door of the session. Let them in: Session …, below the sheet.`,
    );
    note(name, say`Knocked.`);
  }
  await tellTo(key, { kind: 'wait' });
}

const tellTo = async (key: string, value: unknown) => mail?.post(key, value);

const remember = (person: KnownPerson) =>
  changeSession({ people: [...(sessionNow()?.people ?? []), person] });

function freeSeat(): number | null {
  const taken = new Set(useFar.getState().people.map(({ seat }) => seat));
  return Array.from({ length: seats }, (_, index) => index).find((index) => !taken.has(index)) ?? null;
}

const allSeated = say`There are ${seats} talents already. Send one of them away first: Session …, below the sheet.`;

/** Lets somebody in: nothing of them is heard before. */
export async function admit(key: string): Promise<void> {
  const person = personOf(key);
  if (!person || useFar.getState().status !== 'open') return;
  const seat = freeSeat();
  if (seat === null) return notify('info', allSeated);
  const admitted = { ...person, seat, state: 'calling' as const };
  changePerson(key, admitted);
  remember({ key, name: person.name, seat });
  note(person.name, say`Let in.`);
  await call(admitted);
}

/** Somebody is not let in, or sent away: they do not come in again with this link. */
export async function refuse(key: string): Promise<void> {
  const person = personOf(key);
  if (!person) return;
  callers.get(key)?.close(say`The studio has ended the session for you.`);
  callers.delete(key);
  changePerson(key, { state: 'refused', seat: null });
  changeSession({ people: (sessionNow()?.people ?? []).filter((one) => one.key !== key) });
  note(person.name, say`Not let in.`);
  await tellTo(key, { kind: 'refused' });
}

/** Offers a line to somebody who was let in. */
async function call(person: Person): Promise<void> {
  if (person.seat === null) return;
  if (!callers.get(person.key)?.isOpen) changePerson(person.key, { state: 'calling' });
  const sdp = await offerLine(person.key, person.name, person.seat);
  await tellTo(person.key, { kind: 'offer', sdp, helpers: await readHelpers() });
}

function callerFor(key: string, name: string, seat: number): Caller {
  const caller =
    callers.get(key) ??
    new Caller(key, name, seat, {
      greet,
      pull: (one, film, from) => void sendFilm(film, from, (bytes) => one.sendBytes(bytes)).catch(tellFault),
    });
  callers.set(key, caller);
  return caller;
}

/** A line that waits for its answer; the one before, where it has not been answered, is given up. */
async function offerLine(key: string, name: string, seat: number, ms?: number): Promise<string> {
  const engine = await startEngine(rateOfProject());
  const caller = callerFor(key, name, seat);
  offered.get(key)?.close();
  const events: LineEvents = {
    text: (data) => caller.takeText(data),
    bytes: (data) => caller.takeBytes(data),
    opened: () => {
      offered.delete(key);
      void caller.connect(line).catch((thrown: unknown) => notifyError(thrown, 'far'));
    },
    closed: () => {
      if (offered.get(key) === line) offered.delete(key);
      caller.disconnect(line);
    },
    sound: (stream) => patchIn(key, stream),
  };
  const { line, sdp } = await PeerLine.offer(await readHelpers(), patchOut(engine, key, seat), events, ms);
  offered.set(key, line);
  return sdp;
}

// — Without a server between —

const byHand = object({
  key: string().strict().required().max(64),
  name: string().strict().required().max(60),
  sdp: string().strict().required().max(40_000),
});

/** Who has been sent a text and has not answered. */
const nobodyYet = say`Somebody with a text`;

/**
 * A text to send to one talent, which opens a line once the text that they send back is taken. It holds for
 * half an hour; null where there is no room for one more.
 */
export async function offerByHand(): Promise<string | null> {
  const secret = sessionNow()?.secret;
  // A text that was not answered gives its place to the next one.
  const unanswered = useFar
    .getState()
    .people.find(({ name, state }) => name === nobodyYet && state === 'away');
  const seat = unanswered?.seat ?? freeSeat();
  if (!secret || seat === null) return null;
  const key = unanswered?.key ?? newId();
  if (!unanswered)
    useFar.setState(({ people }) => ({ people: [...people, away({ key, name: nobodyYet, seat })] }));
  const sdp = await offerLine(key, nobodyYet, seat, openMs.byHand);
  return writeHandText(secret, { key, sdp, helpers: await readHelpers() });
}

/** Takes the text that came back. Throws ParolaError where it is not of this session, or too late. */
export async function answerByHand(text: string): Promise<void> {
  const { secret, value } = await readHandText(text);
  const { key, name, sdp } =
    secret === sessionNow()?.secret ? byHand.validateSync(value) : { key: '', name: '', sdp: '' };
  const line = offered.get(key);
  if (!line)
    throw new ParolaError(
      'not-found',
      say`This text answers none that waits here. Make a new one and send it once more.`,
    );
  await line.accept(sdp);
  const seat = personOf(key)?.seat ?? 0;
  changePerson(key, { name, state: 'calling' });
  callers.get(key)?.rename(name);
  remember({ key, name, seat });
  note(name, say`Let in, by a text.`);
}

// — Trying it alone —

const practiceName = say`Practice guest`;

/**
 * A session with a guest who practises: the practice reader in a window of its own, behind a network that is
 * neither good nor bad. Resolves to the address of that window, in the place of one that was closed; null,
 * and told, where there is no session or no place.
 */
export async function practise(): Promise<string | null> {
  await openSession();
  const secret = sessionNow()?.secret;
  if (!secret) return null;
  const before = useFar
    .getState()
    .people.find(({ name, state }) => name === practiceName && state === 'away');
  const seat = before?.seat ?? freeSeat();
  if (seat === null) {
    notify('info', allSeated);
    return null;
  }
  const key = before?.key ?? newId();
  if (!before) {
    const known = { key, name: practiceName, seat };
    useFar.setState(({ people }) => ({ people: [...people, away(known)] }));
    remember(known);
  }
  return `/talent?practice=${key}#${secret}`;
}
