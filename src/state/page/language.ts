import { language, languageKey, say, type Language } from '@/texts/say';
import { notify } from './notices';
import { saved } from './saving';

/**
 * The interface speaks another language from now on. Texts are said where the code is read, so that the page
 * begins anew, once everything is stored.
 */
export async function choosesLanguage(chosen: Language): Promise<void> {
  if (chosen === language) return;
  if (!(await saved()))
    return notify('error', say`What was changed last is not stored yet. Try again in a moment.`, 'kept');
  try {
    localStorage.setItem(languageKey, chosen);
  } catch {
    return notify(
      'error',
      say`This browser keeps no settings: the language stays that of the browser.`,
      'kept',
    );
  }
  location.reload();
}
