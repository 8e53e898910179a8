import type { JobWorker } from './protocol';
import type { FromHelped, HelperKind, ToHelped } from './helpers';

let count = 0;

/**
 * A worker that works for this one. The page starts it and hands over a port to it: a worker that starts
 * another one itself can stand still for good in Firefox, in the constructor of the other (ESR 153 on a busy
 * machine: once in thirty files that were written).
 */
export class Helper implements JobWorker {
  onmessage: JobWorker['onmessage'] = null;
  onerror: JobWorker['onerror'] = null;
  onmessageerror: JobWorker['onmessageerror'] = null;
  private readonly helper = ++count;
  private readonly port: MessagePort;

  constructor(kind: HelperKind) {
    const { port1, port2 } = new MessageChannel();
    this.port = port1;
    port1.onmessage = (event) => this.onmessage?.(event);
    port1.onmessageerror = (event) => this.onmessageerror?.(event);
    self.addEventListener('message', this.hear);
    this.tell({ type: 'helper', helper: this.helper, kind, port: port2 }, [port2]);
  }

  postMessage(message: unknown, transfer: Transferable[] = []): void {
    this.port.postMessage(message, transfer);
  }

  terminate(): void {
    self.removeEventListener('message', this.hear);
    this.port.close();
    this.tell({ type: 'helper-over', helper: this.helper });
  }

  private hear = (event: MessageEvent<ToHelped>) => {
    const { type, helper } = event.data;
    if (type === 'helper-died' && helper === this.helper) this.onerror?.(event as never);
  };

  private tell(message: FromHelped, transfer: Transferable[] = []) {
    self.postMessage(message, { transfer });
  }
}
