import type { JournalEntry } from './database';

/** What became of steps that were written: they follow the others, their song is gone, or somebody else wrote some. */
export type Appended = 'written' | 'gone' | 'conflict';

const STRICT: IDBTransactionOptions = { durability: 'strict' };

/**
 * Writes steps of a song behind the others. All that it takes is asked of the database at once and committed without
 * waiting for answers: the steps are on the disk however busy the page is with showing them.
 * @throws what the browser throws where it cannot write
 */
export async function appendSteps(
  database: IDBDatabase,
  id: string,
  steps: readonly JournalEntry[],
): Promise<Appended> {
  let there = 0;
  let follows = true;
  const [first] = steps;
  try {
    const transaction = database.transaction(['snapshots', 'entries'], 'readwrite', STRICT);
    const written = ended(transaction);
    const entries = transaction.objectStore('entries');
    const snapshots = transaction.objectStore('snapshots');
    const counted = snapshots.count(id);
    counted.onsuccess = () => (there = counted.result);
    const whole = snapshots.index('[id+n]').count([id, first.n - 1]);
    const last = entries.count([id, first.n - 1]);
    // It follows the last step, or a snapshot that holds all steps before it; else there is a gap.
    last.onsuccess = () => (follows = whole.result > 0 || last.result > 0);
    // A step of that number that is there already makes the whole transaction fail.
    for (const step of steps) entries.add(step);
    transaction.commit();
    await written;
  } catch (error) {
    if (error instanceof DOMException && error.name === 'ConstraintError') return 'conflict';
    throw error;
  }
  if (there > 0 && follows) return 'written';
  // What was written follows nothing: it is taken out again.
  const transaction = database.transaction('entries', 'readwrite', STRICT);
  const entries = transaction.objectStore('entries');
  for (const { n } of steps) entries.delete([id, n]);
  await ended(transaction);
  return there === 0 ? 'gone' : 'conflict';
}

/** Until a transaction is on the disk. @throws what stopped it */
function ended(transaction: IDBTransaction): Promise<void> {
  return new Promise((done, fail) => {
    transaction.oncomplete = () => done();
    transaction.onabort = () => fail(transaction.error ?? new Error('The browser wrote nothing.'));
  });
}
