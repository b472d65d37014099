import { inject, Injectable } from '@angular/core';
import { liveQuery } from 'dexie';
import { RuleSchema, type Rule } from '@early-sparrow/core/rules';
import { SongStore } from './song-store';

/** Rules that this browser keeps, by name. */
@Injectable({ providedIn: 'root' })
export class RuleStore {
  private readonly table = inject(SongStore).rules;

  /** Those that can be read, by name; emits again at every change. */
  readonly list$ = liveQuery(async () =>
    (await this.table.orderBy('name').toArray()).filter((r) => RuleSchema.safeParse(r).success),
  );

  /** Keeps a rule; one of the same name is replaced. */
  async put(rule: Rule): Promise<void> {
    await this.table.put(rule);
  }

  async remove(name: string): Promise<void> {
    await this.table.delete(name);
  }
}
