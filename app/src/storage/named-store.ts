import { liveQuery, type Table } from 'dexie';

/** What this browser keeps by name, such as recipes. */
export abstract class NamedStore<T extends { readonly name: string }> {
  /** Those that can be read, by name; emits again at every change. */
  readonly list$ = liveQuery(async () =>
    (await this.table.orderBy('name').toArray()).filter((one) => this.isReadable(one)),
  );

  protected constructor(
    private readonly table: Table<T, string>,
    private readonly isReadable: (one: unknown) => boolean,
  ) {}

  /** Whether there is one of a name, readable or not. */
  async has(name: string): Promise<boolean> {
    return (await this.table.get(name)) !== undefined;
  }

  /** Keeps one; one of the same name is replaced. */
  async put(one: T): Promise<void> {
    await this.table.put(one);
  }

  /** Gives one another name, in one transaction: it is never there twice nor gone. */
  async rename(one: T, name: string): Promise<void> {
    await this.table.db.transaction('rw', this.table, async () => {
      await this.table.delete(one.name);
      await this.table.put({ ...one, name });
    });
  }

  async remove(name: string): Promise<void> {
    await this.table.delete(name);
  }
}
