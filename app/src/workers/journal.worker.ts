import '../common/no-eval';
import { expose } from 'comlink';
import { appendSteps } from '../storage/append-steps';
import type { JournalApi } from './journal-api';

const api: JournalApi = {
  async append(name, id, steps) {
    const database = await opened(name);
    try {
      return await appendSteps(database, id, steps);
    } finally {
      // It must not stand in the way of a page that brings the database to its next version.
      database.close();
    }
  },
};

/** The database as it is: the page has made it. */
function opened(name: string): Promise<IDBDatabase> {
  return new Promise((done, fail) => {
    const asked = indexedDB.open(name);
    asked.onsuccess = () => done(asked.result);
    asked.onerror = () => fail(asked.error ?? new Error('The browser does not open its database.'));
    // It is not there: none is made here.
    asked.onupgradeneeded = () => asked.transaction?.abort();
  });
}

expose(api);
