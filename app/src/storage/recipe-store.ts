import { inject, Injectable } from '@angular/core';
import { liveQuery } from 'dexie';
import { RecipeSchema, type Recipe } from '@early-sparrow/core/recipe';
import { SongStore } from './song-store';

/** Recipes that this browser keeps, by name. */
@Injectable({ providedIn: 'root' })
export class RecipeStore {
  private readonly table = inject(SongStore).recipes;

  /** Those that can be read, by name; emits again at every change. */
  readonly list$ = liveQuery(async () =>
    (await this.table.orderBy('name').toArray()).filter((r): r is Recipe => RecipeSchema.safeParse(r).success),
  );

  /** Keeps a recipe; one of the same name is replaced. */
  async put(recipe: Recipe): Promise<void> {
    await this.table.put(recipe);
  }

  /** Gives a recipe another name, in one transaction: it is never there twice nor gone. */
  async rename(recipe: Recipe, name: string): Promise<void> {
    await this.table.db.transaction('rw', this.table, async () => {
      await this.table.delete(recipe.name);
      await this.table.put({ ...recipe, name });
    });
  }

  async remove(name: string): Promise<void> {
    await this.table.delete(name);
  }
}
