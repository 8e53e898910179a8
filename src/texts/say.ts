import german from './de.json';

/**
 * The languages of the interface. Texts stand in the code in English, tagged with `say`; `npm run texts`
 * lists them in `en.json`, and each other language says all of them in a file beside it.
 */
export const languages = { en: 'English', de: 'Deutsch' } as const;
export type Language = keyof typeof languages;

type Texts = Readonly<Record<string, string>>;
const texts: Readonly<Record<Language, Texts | null>> = { en: null, de: german };

/** Where the choice is kept: it has to be known before anything is said. */
export const languageKey = 'parola-language';

const isLanguage = (value: unknown): value is Language =>
  typeof value === 'string' && Object.hasOwn(texts, value);

/** What of the place this runs in tells a language. */
interface Place {
  readonly localStorage?: { getItem(key: string): string | null };
  readonly navigator?: { readonly language?: string };
  /** Of a worker: the page tells it its language by its name. */
  readonly name?: unknown;
  readonly document?: unknown;
}

/**
 * In a page what the user chose, else what the browser prefers; in a worker what its page speaks. Servers and
 * command lines speak English.
 */
export function languageOf({ localStorage, navigator, name, document }: Place): Language {
  if (document === undefined) return isLanguage(name) ? name : 'en';
  let chosen: string | null = null;
  try {
    chosen = localStorage?.getItem(languageKey) ?? null;
  } catch {
    // A browser that keeps nothing still has a language.
  }
  if (isLanguage(chosen)) return chosen;
  const preferred = navigator?.language?.slice(0, 2);
  return isLanguage(preferred) ? preferred : 'en';
}

/** The language that is spoken here, for as long as the page is open. */
export const language: Language = languageOf(globalThis as Place);

const spoken = texts[language];

/** The key of a text: its words, with `{0}`, `{1}` … where values are put. */
export const keyOf = (parts: readonly string[]): string =>
  parts.reduce((key, part, index) => `${key}{${index - 1}}${part}`);

/** The sign before the decimals, by language (Unicode CLDR, as `Intl` has it). */
const decimalSign =
  new Intl.NumberFormat(language).formatToParts(0.5).find(({ type }) => type === 'decimal')?.value ?? '.';

/** A value within a text: numbers as the language that is spoken writes them, anything else as it is. */
export const written = (value: unknown): string =>
  typeof value === 'number' ? String(value).replace('.', decimalSign) : String(value);

/**
 * A text of the interface in the language that is spoken: say`Take ${n} is kept`. A text that a language does
 * not have is said in English.
 */
export function say(parts: TemplateStringsArray, ...values: readonly unknown[]): string {
  const known = spoken?.[keyOf(parts)];
  if (known === undefined)
    return parts.reduce((text, part, index) => `${text}${written(values[index - 1])}${part}`);
  return known.replace(/\{(\d)\}/g, (_, index: string) => written(values[Number(index)]));
}

/** A text that was said in English by a server, which does not know the language that is spoken here. */
export const saidHere = (text: string): string => spoken?.[text] ?? text;

/** A number with so many decimals, as it is written in the language that is spoken. */
export const decimal = (value: number, digits: number): string =>
  value.toFixed(digits).replace('.', decimalSign);

/** A name within a sentence: English writes it small there, German as it is. */
export const withinSentence = (name: string): string => (language === 'en' ? name.toLowerCase() : name);
