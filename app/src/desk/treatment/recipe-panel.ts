import { A11yModule } from '@angular/cdk/a11y';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { fileSave } from 'browser-fs-access';
import { isClosedWindow } from '../../common/closed-window';
import { from } from 'rxjs';
import { applyRecipe, BUILT_IN_RECIPES, recipeFromJson, recipeToJson, type Recipe } from '@early-sparrow/core/recipe';
import { chooseJson } from '../../common/json-file';
import { RecipeStore } from '../../storage/recipe-store';
import { Analyst } from '../fits/analyst';
import { Resting } from '../controls/resting';
import { Treating, type Retreat } from '../hand/treating';

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
        @for (recipe of builtIn; track recipe.name) {
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
        @for (recipe of own(); track recipe.name) {
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
              <button class="word" [attr.aria-label]="'Export ' + recipe.name" (click)="save(recipe)">Export</button>
              <button class="word" [attr.aria-label]="'Delete ' + recipe.name" (click)="remove(recipe)">Delete</button>
            }
          </li>
        }
        @for (recipe of deleted(); track recipe.name) {
          <li class="own soft" role="status">
            <span>“{{ recipe.name }}” was deleted.</span>
            <button class="word" (click)="restore(recipe)">Undo</button>
          </li>
        }
      </ul>
      <form (submit)="add($event, name.value)">
        <input
          #name
          placeholder="Name for this treatment"
          aria-label="Name of the recipe"
          maxlength="200"
          (input)="taken.set(null)"
          (keydown.escape)="closed.emit()"
        />
        <button class="word" type="submit">Save</button>
        <button class="word" type="button" (click)="load()">Import</button>
      </form>
      @if (taken(); as other) {
        <p role="alert">
          “{{ other }}” already exists. Choose another name, or
          <button class="word act" (click)="replace(other)">replace it</button>.
        </p>
      }
      @if (problem()) {
        <p role="alert">{{ problem() }}</p>
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
  private readonly store = inject(RecipeStore);
  readonly closed = output<void>();
  protected readonly builtIn = BUILT_IN_RECIPES;
  protected readonly own = toSignal(from(this.store.list$), { initialValue: [] as Recipe[] });
  protected readonly problem = signal('');
  /** The name that was asked for and is there already. */
  protected readonly taken = signal<string | null>(null);
  protected readonly renaming = signal<string | null>(null);
  protected readonly deleted = signal<readonly Recipe[]>([]);
  private readonly names = computed(() => [...this.builtIn, ...this.own()].map((r) => r.name));

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
    this.problem.set(waits ? 'This recipe needs the analysis. Wait until it is done.' : '');
    if (waits) return;
    this.treating.commitEach(recipe.name, this.retreat(recipe));
    this.closed.emit();
  }

  protected add(event: Event, text: string): void {
    event.preventDefault();
    const name = text.trim();
    this.problem.set(name ? '' : 'Give the recipe a name first.');
    if (!name) return;
    if (this.builtIn.some((r) => r.name === name)) {
      this.problem.set(`“${name}” is built in. Choose another name.`);
    } else if (this.names().includes(name)) this.taken.set(name);
    else void this.write(() => this.put(name));
  }

  protected replace(name: string): void {
    this.taken.set(null);
    void this.write(() => this.put(name));
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

  protected rename(recipe: Recipe, text: string): void {
    const name = text.trim();
    const other = name !== recipe.name && this.names().includes(name);
    this.problem.set(!name ? 'A recipe needs a name.' : other ? `“${name}” already exists. Choose another name.` : '');
    if (!name || other) return;
    this.renaming.set(null);
    if (name !== recipe.name) void this.write(() => this.store.rename(recipe, name)).then(() => this.focusOn(name));
    else this.focusOn(name);
  }

  protected async remove(recipe: Recipe): Promise<void> {
    if (!(await this.write(() => this.store.remove(recipe.name)))) return;
    this.deleted.update((list) => [...list.filter((r) => r.name !== recipe.name), recipe]);
    setTimeout(() => document.querySelector<HTMLElement>('es-recipe-panel .soft:last-child button')?.focus());
  }

  protected async restore(recipe: Recipe): Promise<void> {
    if (!(await this.write(() => this.store.put({ ...recipe, name: this.freeName(recipe.name) })))) return;
    this.deleted.update((list) => list.filter((r) => r !== recipe));
    this.focusOn(recipe.name);
  }

  protected async save(recipe: Recipe): Promise<void> {
    const blob = new Blob([recipeToJson(recipe)], { type: 'application/json' });
    try {
      await fileSave(blob, { fileName: `${recipe.name}.json`, extensions: ['.json'] });
    } catch (error) {
      if (isClosedWindow(error)) return;
      this.problem.set('The file could not be written. Choose another folder and try again.');
    }
  }

  protected async load(): Promise<void> {
    try {
      const recipe = recipeFromJson(await chooseJson('Recipes'));
      await this.write(() => this.store.put({ ...recipe, name: this.freeName(recipe.name) }));
    } catch (error) {
      if (isClosedWindow(error)) return;
      this.problem.set(error instanceof Error ? error.message : 'The recipe could not be read.');
    }
  }

  /** What is saved is what is set, not what is being tried. */
  private async put(name: string): Promise<void> {
    const own = this.treating.ownTreatment();
    if (!own) return;
    // Another song has other tracks to line up with.
    const { with: _with, ...quantize } = own.quantize;
    const treatment = { ...own, quantize };
    const auto = { grid: false, lag: false };
    await this.store.put({ kind: 'early-sparrow-recipe', version: 1, name, about: '', treatment, auto });
  }

  /** Writes, and returns whether that worked. A failure is shown to the user. */
  private async write(act: () => Promise<void>): Promise<boolean> {
    try {
      await act();
      this.problem.set('');
      return true;
    } catch {
      this.problem.set('The browser refused to save it. Free some space and try again, or export it as a file.');
      return false;
    }
  }

  /** The name, with a number where it is taken. */
  private freeName(name: string): string {
    let free = name;
    for (let n = 2; this.names().includes(free); n++) free = `${name} (${n})`;
    return free;
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
