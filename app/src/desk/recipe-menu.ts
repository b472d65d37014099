import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatSnackBar } from '@angular/material/snack-bar';
import { fileOpen, fileSave } from 'browser-fs-access';
import { from } from 'rxjs';
import { applyRecipe, BUILT_IN_RECIPES, recipeFromJson, recipeToJson, type Recipe } from '@early-sparrow/core/recipe';
import { RecipeStore } from '../storage/recipe-store';
import { Analyst } from './analyst';
import { Treating } from './treating';

/** Saved treatments: pointing at one previews it, pressing applies it. */
@Component({
  selector: 'es-recipe-menu',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul (mouseleave)="treating.preview(null)">
      @for (recipe of builtIn; track recipe.name) {
        <li>
          <button class="pick" (mouseenter)="preview(recipe)" (focus)="preview(recipe)" (click)="apply(recipe)">
            <b>{{ recipe.name }}</b>
            <span>{{ recipe.about }}</span>
          </button>
        </li>
      }
      @for (recipe of own(); track recipe.name) {
        <li class="own">
          <button class="pick" (mouseenter)="preview(recipe)" (focus)="preview(recipe)" (click)="apply(recipe)">
            <b>{{ recipe.name }}</b>
          </button>
          <button class="word" (click)="save($event, recipe)">Export</button>
          <button class="word" (click)="remove($event, recipe)">Delete</button>
        </li>
      }
    </ul>
    <form (click)="$event.stopPropagation()" (keydown)="$event.stopPropagation()" (submit)="add($event, name.value)">
      <input #name placeholder="Name for this treatment" aria-label="Name of the recipe" maxlength="200" />
      <button class="word" type="submit">Save</button>
      <button class="word" type="button" (click)="load()">Import</button>
    </form>
    @if (problem()) {
      <p role="alert">{{ problem() }}</p>
    }
  `,
  styles: `
    :host {
      display: block;
      width: 278px;
      padding: 0 8px;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    .pick {
      display: grid;
      flex: 1;
      width: 100%;
      padding: 6px 8px;
      border: 0;
      border-radius: 6px;
      background: none;
      color: var(--ink);
      font: inherit;
      text-align: left;
      cursor: pointer;
    }
    .pick:hover,
    .pick:focus-visible {
      background: var(--raised);
    }
    .pick span {
      font-size: 13px;
      line-height: 1.3;
      color: var(--soft);
    }
    .own,
    form {
      display: flex;
      align-items: center;
    }
    form {
      gap: 4px;
      padding: 8px;
      border-top: 1px solid var(--line);
    }
    input {
      flex: 1;
      min-width: 0;
      padding: 5px 8px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--paper);
      color: var(--ink);
      font: inherit;
      font-size: 14px;
    }
    p {
      margin: 0;
      padding: 0 8px 8px;
      font-size: 13px;
    }
  `,
})
export class RecipeMenu {
  protected readonly treating = inject(Treating);
  private readonly analyst = inject(Analyst);
  private readonly store = inject(RecipeStore);
  private readonly snack = inject(MatSnackBar);
  protected readonly builtIn = BUILT_IN_RECIPES;
  protected readonly own = toSignal(from(this.store.list$), { initialValue: [] as Recipe[] });
  protected readonly problem = signal('');

  protected preview(recipe: Recipe): void {
    this.treating.preview(this.treatment(recipe));
  }

  protected apply(recipe: Recipe): void {
    const treatment = this.treatment(recipe);
    if (treatment) this.treating.apply(recipe.name, treatment);
  }

  protected async add(event: Event, text: string): Promise<void> {
    event.preventDefault();
    const name = text.trim();
    const treatment = this.treating.treatment();
    if (!name || !treatment) {
      this.problem.set('Give the recipe a name first.');
      return;
    }
    this.problem.set('');
    const auto = { grid: false, lag: false };
    await this.store.put({ kind: 'early-sparrow-recipe', version: 1, name, about: '', treatment, auto });
  }

  protected async remove(event: Event, recipe: Recipe): Promise<void> {
    event.stopPropagation();
    await this.store.remove(recipe.name);
    this.snack
      .open(`“${recipe.name}” was deleted.`, 'Undo', { duration: 15_000 })
      .onAction()
      .subscribe(() => void this.store.put(recipe));
  }

  protected async save(event: Event, recipe: Recipe): Promise<void> {
    event.stopPropagation();
    const blob = new Blob([recipeToJson(recipe)], { type: 'application/json' });
    await fileSave(blob, { fileName: `${recipe.name}.json`, extensions: ['.json'] }).catch(() => undefined);
  }

  protected async load(): Promise<void> {
    try {
      const file = await fileOpen({ extensions: ['.json'], mimeTypes: ['application/json'], description: 'Recipes' });
      await this.store.put(recipeFromJson(await file.text()));
      this.problem.set('');
    } catch (error) {
      if (error instanceof DOMException && error.name === 'AbortError') return;
      this.problem.set(error instanceof Error ? error.message : 'The recipe could not be read.');
    }
  }

  private treatment(recipe: Recipe) {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part || !song) return null;
    const analysis = this.analyst.analysis();
    // What is found from the notes waits for the analysis, which never runs on this thread.
    if ((recipe.auto.grid || recipe.auto.lag) && !analysis) return null;
    return applyRecipe(recipe, part, song, analysis ?? undefined);
  }
}
