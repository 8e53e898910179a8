import { say } from '@/texts/say';

/** Specs that come with Parola have one name in files and messages, and one in each language here. */
const builtIn: Readonly<Record<string, string>> = {
  'Audiobook retail': say`Audiobook retail`,
  'Podcast mono': say`Podcast mono`,
  'Podcast stereo': say`Podcast stereo`,
  'Broadcast EU': say`Broadcast EU`,
  'Broadcast US': say`Broadcast US`,
  'Dry voice': say`Dry voice`,
  'Casting sample': say`Casting sample`,
};

export const specName = (name: string): string => (Object.hasOwn(builtIn, name) ? builtIn[name] : name);
