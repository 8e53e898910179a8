import { withKeys } from './keys';

/** A message with the keys that commands have now. */
export const WithKeys = ({ text }: { text: string }) => withKeys(text);
