import { inject, Injectable } from '@angular/core';
import { RecipeSchema, type Recipe } from '@early-sparrow/core/recipe';
import { NamedStore } from './named-store';
import { SongStore } from './song-store';

/** Recipes that this browser keeps, by name. */
@Injectable({ providedIn: 'root' })
export class RecipeStore extends NamedStore<Recipe> {
  constructor() {
    super(inject(SongStore).recipes, (one) => RecipeSchema.safeParse(one).success);
  }
}
