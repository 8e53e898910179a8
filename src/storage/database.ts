import { say } from '@/texts/say';
import { openDB, type IDBPDatabase, type IDBPTransaction, type StoreNames } from 'idb';
import { ParolaError, toParolaError } from '@/core/base/errors';
import type { ParolaSchema } from './schema';

export type Database = IDBPDatabase<ParolaSchema>;
export type StoreName = StoreNames<ParolaSchema>;
export type Transaction = IDBPTransaction<ParolaSchema, StoreName[], 'readwrite'>;

const version = 2;
let opened: Promise<Database> | null = null;

/** The one connection of this page or worker. */
export function database(): Promise<Database> {
  opened ??= openDB<ParolaSchema>('parola', version, {
    upgrade(db, oldVersion) {
      if (oldVersion < 1) createStores(db);
      if (oldVersion < 2)
        db.createObjectStore('checks', { keyPath: 'id' }).createIndex('project', 'projectId');
    },
    blocking(_current, _blocked, event) {
      // Another tab wants a newer schema: give way, the next use opens again.
      (event.target as IDBDatabase).close();
      opened = null;
    },
    terminated() {
      opened = null;
    },
  }).catch((error) => {
    opened = null;
    throw new ParolaError(
      'internal',
      say`This browser does not let Parola store anything: ${toParolaError(error).message}`,
    );
  });
  return opened;
}

function createStores(db: Database) {
  db.createObjectStore('projects', { keyPath: 'id' });
  db.createObjectStore('parts', { keyPath: 'id' }).createIndex('project', 'projectId');
  db.createObjectStore('history', { keyPath: ['partId', 'seq'] });
  db.createObjectStore('sources', { keyPath: 'id' }).createIndex('project', 'projectIds', {
    multiEntry: true,
  });
  db.createObjectStore('blocks');
  db.createObjectStore('peaks');
  db.createObjectStore('settings');
}

/**
 * The only way to write. Resolves when the transaction is on disk (strict durability); rejects with a
 * ParolaError and leaves everything as it was when it cannot be.
 */
export async function write<T>(
  stores: StoreName[],
  change: (transaction: Transaction) => Promise<T> | T,
): Promise<T> {
  const db = await database();
  const transaction = db.transaction(stores, 'readwrite', { durability: 'strict' });
  // The reason of an abort is reported by `done`, the value by `change`; whichever fails first is the one to
  // report.
  const done = transaction.done;
  try {
    const result = await change(transaction);
    await done;
    return result;
  } catch (error) {
    done.catch(() => undefined);
    try {
      transaction.abort();
    } catch {
      // It had ended already.
    }
    throw toParolaError(transaction.error ?? error);
  }
}

/** Key range of everything that belongs to one owner in a store keyed by [owner, number]. */
export const allOf = (owner: string, from = 0, to = Infinity) =>
  IDBKeyRange.bound([owner, from], [owner, to]);

/** Closes the connection, for tests. */
export async function closeDatabase(): Promise<void> {
  (await opened)?.close();
  opened = null;
}
