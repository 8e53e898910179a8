import { language } from '@/texts/say';

/** What works for other workers. */
const starts = {
  render: () =>
    new Worker(new URL('./render.worker.ts', import.meta.url), { type: 'module', name: language }),
  follow: () =>
    new Worker(new URL('./follow.worker.ts', import.meta.url), { type: 'module', name: language }),
  hash: () => new Worker(new URL('./hash.worker.ts', import.meta.url), { type: 'module', name: language }),
};
export type HelperKind = keyof typeof starts;

/** What a worker says that wants a helper, and when it needs it no more. */
export type FromHelped =
  | { type: 'helper'; helper: number; kind: HelperKind; port: MessagePort }
  | { type: 'helper-over'; helper: number };
export type ToHelped = { type: 'helper-died'; helper: number };

/** The page's side of the helpers of one worker (see `Helper`): they end with it. */
export class Helpers {
  private readonly running = new Map<number, Worker>();

  constructor(private readonly tell: (message: ToHelped) => void) {}

  receive(message: FromHelped): void {
    const { helper } = message;
    if (message.type === 'helper-over') return this.over(helper);
    const worker = starts[message.kind]();
    this.running.set(helper, worker);
    const died = () => {
      this.over(helper);
      this.tell({ type: 'helper-died', helper });
    };
    worker.onerror = died;
    worker.onmessageerror = died;
    worker.postMessage({ type: 'port', port: message.port }, [message.port]);
  }

  end(): void {
    for (const helper of [...this.running.keys()]) this.over(helper);
  }

  private over(helper: number) {
    this.running.get(helper)?.terminate();
    this.running.delete(helper);
  }
}
