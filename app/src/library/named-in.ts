import type { Table } from 'dexie';
import { freeTitle } from '@early-sparrow/core/song';

/** No more recipes or rules than this are read. */
const MOST_NAMED = 10_000;

/**
 * Brings recipes or rules back that are not there yet, under whatever name; one of a name that is taken gets another.
 * @param read what stands in the backup: a list, if it is whole
 * @param as one by its schema; undefined where it cannot be read
 * @returns how many came, and the names of those that could not be read
 */
export async function bringNamed<T extends { readonly name: string }>(
  read: unknown,
  as: (value: unknown) => T | undefined,
  table: Table<T, string>,
): Promise<{ came: number; damaged: string[] }> {
  const there = await table.toArray();
  const names = new Set(there.map((one) => one.name));
  const said = new Set(there.map((one) => saidBy(as(one) ?? one)));
  const damaged: string[] = [];
  let came = 0;
  for (const value of (Array.isArray(read) ? read : []).slice(0, MOST_NAMED) as unknown[]) {
    const one = as(value);
    if (!one) damaged.push(nameOf(value));
    else if (!said.has(saidBy(one))) {
      const name = freeTitle(one.name, (n) => names.has(n));
      names.add(name);
      await table.put({ ...one, name });
      came++;
    }
  }
  return { came, damaged };
}

/** What it says beside its name. Both sides went through the schema, which puts their fields in one order. */
const saidBy = (one: object) => JSON.stringify({ ...one, name: '' });

const nameOf = (value: unknown) => String((value as { name?: unknown } | null)?.name ?? 'without a name');
