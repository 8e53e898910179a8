import { format as formatDate } from 'date-fns';
import { de } from 'date-fns/locale/de';
import { language } from './say';

/** A date in the language that is spoken; the pattern is written as in English, `d MMM, HH:mm`. */
export const format = (date: Date | number, pattern: string): string =>
  language === 'de'
    ? formatDate(date, pattern.replace(/\bd (?=M)/, 'd. '), { locale: de })
    : formatDate(date, pattern);
