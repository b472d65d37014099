import type { Appended } from '../storage/append-steps';
import type { JournalEntry } from '../storage/database';

/** What the worker does that writes steps of very many notes: the browser copies and packs them, which takes its time. */
export interface JournalApi {
  append(database: string, id: string, steps: readonly JournalEntry[]): Promise<Appended>;
}
