import { saidHere, say } from '@/texts/say';
import { array, number, object, string } from 'yup';
import { errorCodes, ParolaError, toParolaError, type ErrorCode } from '@/core/base/errors';
import { sleep } from '@/core/base/waiting';
import { roomOf, seal, unseal } from './secret';

const answered = object({
  letters: array(
    object({ n: number().required(), from: string().required(), sealed: string().required() }),
  ).required(),
});

/** After so many failures in a row who waits is told; it is tried on all the same. */
const retryMs = [500, 1000, 2000, 5000];
const postMs = 8000;
const readMs = 30_000;

export interface MailEvents {
  /** A letter has come, unsealed and not yet looked at. */
  letter(from: string, value: unknown): void;
  /** The room can be reached again, or not, and why. */
  reached(error: ParolaError | null): void;
}

/**
 * The letters of one side in the room of a session. What the server sees is sealed; what was sealed by nobody
 * who has the secret is passed over.
 */
export class RoomMail {
  private readonly end = new AbortController();

  constructor(
    private readonly secret: string,
    private readonly as: string,
    private readonly owner: string,
    private readonly events: MailEvents,
  ) {
    void this.readOn();
  }

  close(): void {
    this.end.abort();
  }

  /** Throws ParolaError when the room does not take it. */
  async post(to: string, value: unknown): Promise<void> {
    const body = JSON.stringify({ from: this.as, to, sealed: await seal(this.secret, value) });
    await this.ask('', { method: 'POST', body }, postMs);
  }

  private async ask(query: string, init: RequestInit, ms: number): Promise<unknown> {
    const address = `/api/rooms/${await roomOf(this.secret)}${query}`;
    const signal = AbortSignal.any([this.end.signal, AbortSignal.timeout(ms)]);
    let response: Response;
    try {
      response = await fetch(address, { ...init, signal, headers: { 'x-parola-owner': this.owner } });
    } catch (thrown) {
      if (this.end.signal.aborted) throw toParolaError(thrown);
      throw new ParolaError('no-answer', say`The server does not answer. Is this machine online?`);
    }
    const value = (await response.json().catch(() => null)) as { error?: string; code?: string } | null;
    if (response.ok) return value;
    const code = errorCodes.find((one) => one === value?.code) ?? ('no-answer' satisfies ErrorCode);
    throw new ParolaError(
      code,
      value?.error ? saidHere(value.error) : say`The server does not answer as it should.`,
    );
  }

  private async readOn() {
    let after = 0;
    let failures = 0;
    while (!this.end.signal.aborted) {
      try {
        const query = `?as=${this.as}&after=${after}`;
        const { letters } = answered.validateSync(await this.ask(query, {}, readMs));
        if (failures > 0 || after === 0) this.events.reached(null);
        failures = 0;
        after = Math.max(1, after);
        for (const { n, from, sealed } of letters) {
          after = n + 1;
          const value = await unseal(this.secret, sealed).catch(() => null);
          if (value !== null && !this.end.signal.aborted) this.events.letter(from, value);
        }
      } catch (thrown) {
        if (this.end.signal.aborted) return;
        this.events.reached(toParolaError(thrown));
        await sleep(retryMs[Math.min(failures++, retryMs.length - 1)]);
      }
    }
  }
}
