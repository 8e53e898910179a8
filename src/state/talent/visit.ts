import { say } from '@/texts/say';
import { object, string } from 'yup';
import { readHandText } from '@/net/handText';
import { isSecret } from '@/net/secret';
import type { Weather } from '@/core/far/simulatedLine';
import type { InputChoice } from '@/storage/schema';
import { helpersSchema } from '../far/helpers';
import { openTalentMicrophone } from './microphone';
import {
  followWeather,
  join,
  newIdentity,
  readIdentity,
  writeIdentity,
  type Identity,
  type Offer,
} from './session';
import { useTalent } from './talent';

let secret = '';
let identity: Identity | null = null;
/** What a text from the studio has brought. */
let offer: Offer | null = null;
let givenKey = '';

/** The network of a guest who practises: a line across a continent, neither good nor bad. */
const practiceWeather: Weather = { delayMs: 60, jitterMs: 30, loss: 0.01, doubling: 0.005, cuts: [] };

/**
 * What a link leads to: `#` and its secret; `?practice` for a guest who practises, who needs no asking.
 * Somebody who has been there before goes on at the microphone.
 */
export async function openLink(hash: string, query: string): Promise<void> {
  const text = hash.replace(/^#/, '');
  if (!isSecret(text)) return useTalent.setState({ step: 'no-link' });
  secret = text;
  const practice = new URLSearchParams(query).get('practice');
  if (practice) return practise(practice);
  const known = await readIdentity(secret).catch(() => undefined);
  if (!known) return;
  identity = known;
  useTalent.setState({ step: 'microphone', name: known.name, consentAt: known.consentAt });
}

async function practise(key: string): Promise<void> {
  useTalent.setState({ weather: practiceWeather });
  identity = newIdentity(say`Practice guest`, key);
  useTalent.setState({ name: identity.name, consentAt: identity.consentAt });
  await openTalentMicrophone({ kind: 'reader' });
  await enter();
}

/** The talent has read what will happen, and lets themselves be recorded. */
export async function consent(name: string): Promise<void> {
  identity = newIdentity(name.trim().slice(0, 60), givenKey || undefined);
  useTalent.setState({ step: 'microphone', name: identity.name, consentAt: identity.consentAt });
  await writeIdentity(secret, identity).catch(() => undefined);
}

export const chooseMicrophone = (choice: InputChoice) => openTalentMicrophone(choice);

/** Changes the network of a guest who practises; what is under way comes as it would have. */
export function setWeather(changes: Partial<Weather>): void {
  const { weather } = useTalent.getState();
  if (!weather) return;
  useTalent.setState({ weather: { ...weather, ...changes } });
  followWeather();
}

/** Goes to the studio's door. */
export async function enter(): Promise<void> {
  if (identity) await join(secret, identity, offer);
}

const offered = object({
  key: string().strict().required().max(64),
  sdp: string().strict().required().max(40_000),
  helpers: helpersSchema.notRequired(),
});

/** Takes a text from the studio instead of a link. Throws ParolaError where it is none. */
export async function openHandText(text: string): Promise<void> {
  const { secret: found, value } = await readHandText(text);
  const { key, sdp, helpers } = offered.validateSync(value);
  secret = found;
  offer = { sdp, helpers: helpers ?? [] };
  givenKey = key;
  useTalent.setState({ step: 'welcome' });
}

/** Back to the microphone, after leaving. */
export const comeBack = () => useTalent.setState({ step: 'microphone', line: 'none', ended: '' });
