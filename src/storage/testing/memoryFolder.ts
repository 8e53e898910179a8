import { File } from 'node:buffer';

/** What a disk does when it does not do what it is asked; thrown as browsers do. */
export const fault = (name: string) => new DOMException(name, name);

interface Held {
  bytes: Uint8Array<ArrayBuffer>;
}

/**
 * A folder of the user's in memory, as the File System standard of the WHATWG has it: what is written stands
 * apart until it is closed. `before` is called before each file is written to, and may throw.
 */
export class MemoryFolder {
  readonly kind = 'directory';
  private readonly files = new Map<string, Held>();
  private readonly folders = new Map<string, MemoryFolder>();
  /** Bytes that the disk takes in all. */
  room = Infinity;
  before: (path: string) => void = () => undefined;

  constructor(
    readonly name: string,
    private readonly parent: MemoryFolder | null = null,
  ) {}

  /** As code that knows only the browser's own folders takes it. */
  get handle(): FileSystemDirectoryHandle {
    return this as unknown as FileSystemDirectoryHandle;
  }

  private get root(): MemoryFolder {
    return this.parent?.root ?? this;
  }

  private get path(): string {
    return this.parent ? `${this.parent.path}${this.name}/` : '';
  }

  get taken(): number {
    const own = [...this.files.values()].reduce((sum, { bytes }) => sum + bytes.length, 0);
    return [...this.folders.values()].reduce((sum, inner) => sum + inner.taken, own);
  }

  async getDirectoryHandle(name: string, { create = false } = {}): Promise<MemoryFolder> {
    this.root.before(`${this.path}${name}`);
    const found = this.folders.get(name);
    if (found) return found;
    if (!create) throw fault('NotFoundError');
    const made = new MemoryFolder(name, this);
    this.folders.set(name, made);
    return made;
  }

  async getFileHandle(name: string, { create = false } = {}) {
    this.root.before(`${this.path}${name}`);
    if (!this.files.has(name)) {
      if (!create) throw fault('NotFoundError');
      this.files.set(name, { bytes: new Uint8Array(0) });
    }
    return {
      kind: 'file' as const,
      name,
      getFile: async () => new File([this.files.get(name)?.bytes ?? new Uint8Array(0)], name),
      createWritable: async () => this.writable(name),
    };
  }

  private writable(name: string) {
    let bytes = new Uint8Array(0);
    let at = 0;
    const put = (data: Uint8Array, position: number) => {
      this.root.before(`${this.path}${name}`);
      if (this.root.taken + position + data.length > this.root.room) throw fault('QuotaExceededError');
      if (position + data.length > bytes.length) {
        const grown = new Uint8Array(position + data.length);
        grown.set(bytes);
        bytes = grown;
      }
      bytes.set(data, position);
      at = position + data.length;
    };
    type Given = Uint8Array | string | { type: 'write'; position: number; data: Uint8Array };
    const write = async (given: Given) => {
      if (typeof given === 'string') put(new TextEncoder().encode(given), at);
      else if (given instanceof Uint8Array) put(given, at);
      else put(given.data, given.position);
    };
    const close = async () => {
      if (!this.files.has(name)) throw fault('NotFoundError');
      this.files.set(name, { bytes });
    };
    // A stream to pipe into, and methods of its own beside.
    return Object.assign(new WritableStream<Uint8Array>({ write, close }), {
      write,
      close,
      abort: async () => undefined,
    });
  }

  async removeEntry(name: string): Promise<void> {
    this.files.delete(name);
    this.folders.delete(name);
  }

  async *entries(): AsyncGenerator<[string, { kind: string }]> {
    for (const name of this.files.keys()) yield [name, await this.getFileHandle(name)];
    yield* this.folders.entries();
  }

  /** Every file by its path, inner folders included. */
  contents(): Map<string, Uint8Array<ArrayBuffer>> {
    const all = new Map([...this.files].map(([name, { bytes }]) => [`${this.path}${name}`, bytes]));
    for (const inner of this.folders.values())
      for (const [path, bytes] of inner.contents()) all.set(path, bytes);
    return all;
  }

  /** Changes a file behind everybody's back; null takes it away. */
  damage(path: string, change: (bytes: Uint8Array<ArrayBuffer>) => Uint8Array<ArrayBuffer> | null): void {
    const [first, ...rest] = path.split('/');
    if (rest.length > 0) {
      this.folders.get(first)?.damage(rest.join('/'), change);
      return;
    }
    const changed = change(this.files.get(first)?.bytes.slice() ?? new Uint8Array(0));
    if (changed) this.files.set(first, { bytes: changed });
    else this.files.delete(first);
  }
}
