import { A11yModule } from '@angular/cdk/a11y';
import { ChangeDetectionStrategy, Component, DestroyRef, inject, output, signal } from '@angular/core';
import { applyRecipe, BUILT_IN_RECIPES, recipeFromJson, recipeToJson, type Recipe } from '@early-sparrow/core/recipe';
import { RecipeStore } from '../../storage/recipe-store';
import { Analyst } from '../fits/analyst';
import { Resting } from '../controls/resting';
import { Treating, type Retreat } from '../hand/treating';
import { Shelf } from '../kit/shelf';

/** Saved treatments: resting on one shows it, pressing applies it; own ones are saved, renamed, exported, deleted. */
@Component({
  selector: 'es-recipe-panel',
  imports: [A11yModule, Resting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section role="dialog" aria-label="Recipes" cdkTrapFocus [cdkTrapFocusAutoCapture]="true">
      <header>
        <h3>Recipes</h3>
        <button class="word" (click)="closed.emit()">Close</button>
      </header>
      <ul>
        @for (recipe of shelf.builtIn; track recipe.name) {
          <li>
            <button
              class="pick"
              [attr.cdkFocusInitial]="$first ? '' : null"
              [esResting]="try(recipe)"
              [esRestingEnd]="endTrying"
              (click)="apply(recipe)"
            >
              <b>{{ recipe.name }}</b>
              <span>{{ recipe.about }}</span>
            </button>
          </li>
        }
        @for (recipe of shelf.own(); track recipe.name) {
          <li class="own">
            @if (renaming() === recipe.name) {
              <input
                #renamed
                cdkFocusInitial
                maxlength="200"
                [attr.aria-label]="'New name of ' + recipe.name"
                [value]="recipe.name"
                (keydown.enter)="rename(recipe, renamed.value)"
                (keydown.escape)="stopRenaming($event)"
              />
              <button class="word" (click)="rename(recipe, renamed.value)">Rename</button>
            } @else {
              <button class="pick" [esResting]="try(recipe)" [esRestingEnd]="endTrying" (click)="apply(recipe)">
                <b>{{ recipe.name }}</b>
              </button>
              <button class="word" [attr.aria-label]="'Rename ' + recipe.name" (click)="startRenaming(recipe)">
                Rename
              </button>
              <button class="word" [attr.aria-label]="'Export ' + recipe.name" (click)="shelf.export(recipe)">
                Export
              </button>
              <button class="word" [attr.aria-label]="'Delete ' + recipe.name" (click)="remove(recipe)">Delete</button>
            }
          </li>
        }
        @for (recipe of shelf.deleted(); track recipe) {
          <li class="own soft" role="status">
            <span>“{{ recipe.name }}” was deleted.</span>
            <button class="word" (click)="restore(recipe)">Undo</button>
          </li>
        }
      </ul>
      <form (submit)="add($event, name)">
        <input
          #name
          placeholder="Name for this treatment"
          aria-label="Name of the recipe"
          maxlength="200"
          (input)="shelf.clear()"
          (keydown.escape)="closed.emit()"
        />
        <button class="word" type="submit">Save</button>
        <button class="word" type="button" (click)="shelf.import()">Import</button>
      </form>
      @if (shelf.taken(); as other) {
        <p role="alert">
          “{{ other.name }}” already exists. Choose another name, or
          <button class="word act" (click)="replace(other, name)">replace it</button>.
        </p>
      }
      @if (shelf.problem()) {
        <p role="alert">{{ shelf.problem() }}</p>
      }
    </section>
  `,
  styles: `
    section {
      max-height: min(56vh, 420px);
      overflow: auto;
      margin: 0 -8px 10px;
      padding: 4px 8px 8px;
      border: 1px solid var(--line);
      border-radius: 8px;
      background: var(--paper);
    }
    header {
      display: flex;
      align-items: baseline;
      justify-content: space-between;
    }
    h3 {
      margin: 0;
      font-size: 14px;
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
      min-width: 0;
      padding: 5px 8px;
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
    .pick b {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
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
      font-size: 14px;
    }
    .own .word {
      padding: 4px;
    }
    .soft {
      padding-left: 8px;
      color: var(--soft);
    }
    form {
      gap: 4px;
      padding: 8px 0 0;
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
      margin: 4px 0 0;
      font-size: 13px;
    }
    .act {
      color: var(--action);
      padding: 0 2px;
    }
  `,
})
export class RecipePanel {
  protected readonly treating = inject(Treating);
  private readonly analyst = inject(Analyst);
  protected readonly shelf = new Shelf<Recipe>(inject(RecipeStore), {
    one: 'recipe',
    builtIn: BUILT_IN_RECIPES,
    toJson: recipeToJson,
    fromJson: recipeFromJson,
  });
  protected readonly renaming = signal<string | null>(null);
  readonly closed = output<void>();

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.treating.endTrying();
    });
  }

  protected readonly try = (recipe: Recipe) => (): void =>
    this.treating.tryEach(recipe.name, this.retreat(recipe), true);

  protected readonly endTrying = (): void => this.treating.endTrying();

  protected apply(recipe: Recipe): void {
    const waits = (recipe.auto.grid || recipe.auto.lag) && !this.analyst.complete();
    this.shelf.problem.set(waits ? 'This recipe needs the analysis. Wait until it is done.' : '');
    if (waits) return;
    this.treating.commitEach(recipe.name, this.retreat(recipe));
    this.closed.emit();
  }

  protected async add(event: Event, typed: HTMLInputElement): Promise<void> {
    event.preventDefault();
    const recipe = this.asSet(typed.value.trim());
    if (recipe && (await this.shelf.save(recipe))) typed.value = '';
  }

  protected async replace(recipe: Recipe, typed: HTMLInputElement): Promise<void> {
    if (await this.shelf.replace(recipe)) typed.value = '';
  }

  protected startRenaming(recipe: Recipe): void {
    this.renaming.set(recipe.name);
    setTimeout(() => document.querySelector<HTMLInputElement>('es-recipe-panel .own input')?.select());
  }

  protected stopRenaming(event: Event): void {
    event.stopPropagation();
    this.focusOn(this.renaming());
    this.renaming.set(null);
  }

  protected async rename(recipe: Recipe, typed: string): Promise<void> {
    if (!(await this.shelf.rename(recipe, typed))) return;
    this.renaming.set(null);
    this.focusOn(typed.trim());
  }

  protected async remove(recipe: Recipe): Promise<void> {
    if (!(await this.shelf.remove(recipe))) return;
    setTimeout(() => document.querySelector<HTMLElement>('es-recipe-panel .soft:last-child button')?.focus());
  }

  protected async restore(recipe: Recipe): Promise<void> {
    const back = await this.shelf.restore(recipe);
    if (back) this.focusOn(back.name);
  }

  /** A recipe of what is set, not of what is being tried. */
  private asSet(name: string): Recipe | null {
    const own = this.treating.ownTreatment();
    if (!own) return null;
    // Another song has other tracks to line up with.
    const { with: _with, ...quantize } = own.quantize;
    const treatment = { ...own, quantize };
    const auto = { grid: false, lag: false };
    return { kind: 'early-sparrow-recipe', version: 1, name, about: '', treatment, auto };
  }

  /** The list is written anew when the store has told of it: the focus waits for that. */
  private focusOn(name: string | null, tries = 20): void {
    setTimeout(() => {
      const buttons = [...document.querySelectorAll<HTMLElement>('es-recipe-panel .pick')];
      const found = buttons.find((b) => b.querySelector('b')?.textContent === name);
      if (found) found.focus();
      else if (tries > 0) this.focusOn(name, tries - 1);
    }, 25);
  }

  /** What is found from the notes is found for each part by itself. */
  private retreat(recipe: Recipe): Retreat {
    return (_, part) => {
      const song = this.treating.song();
      const analysis = this.analyst.ofPart(part);
      // What is found from the notes waits for the analysis, which never runs on this thread.
      if (!song || ((recipe.auto.grid || recipe.auto.lag) && !analysis)) return null;
      return applyRecipe(recipe, part, song, analysis ?? undefined);
    };
  }
}
