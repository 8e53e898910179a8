import { say } from '@/texts/say';
import { array, object, string, ValidationError } from 'yup';
import { ParolaError } from '@/core/base/errors';
import { readSetting, writeSetting } from '@/storage/settings';

/** Servers that help two machines to find each other (STUN, TURN); none unless a studio has set some. */
const setting = 'far/helpers';

const helper = object({
  urls: string()
    .required(say`An address is missing.`)
    .matches(
      /^(stuns?|turns?):[\w.[\]:-]+(\?transport=(udp|tcp))?$/,
      say`An address begins with stun: or turn: and names a server, as in turn:turn.example.org:3478.`,
    ),
  username: string().max(200),
  credential: string().max(200),
});
export const helpersSchema = array(helper)
  .required()
  .max(8, say`Eight servers are enough.`);

export type Helper = { urls: string; username?: string; credential?: string };

export const readHelpers = async (): Promise<Helper[]> => (await readSetting<Helper[]>(setting)) ?? [];

/** Throws ParolaError `unsupported` for what is no address. */
export async function writeHelpers(helpers: readonly Helper[]): Promise<void> {
  try {
    await writeSetting(setting, helpersSchema.validateSync(helpers));
  } catch (thrown) {
    if (thrown instanceof ValidationError) throw new ParolaError('unsupported', thrown.errors[0]);
    throw thrown;
  }
}
