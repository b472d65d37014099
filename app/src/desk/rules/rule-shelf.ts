import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { BUILT_IN_RULES, ruleFromJson, ruleToJson, type Rule } from '@early-sparrow/core/rules';
import { PickOne } from '../../common/pick-one';
import { RuleStore } from '../../storage/rule-store';
import { Shelf } from '../kit/shelf';
import { Ruling } from './ruling';

/** Rules to choose from; own ones are saved, exported, imported and deleted. */
@Component({
  selector: 'es-rule-shelf',
  imports: [PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <es-pick-one label="Rule" [value]="ruling.rule().name" [options]="options()" (picked)="choose($event)" />
    <form (submit)="save($event, name)">
      <input
        #name
        class="entry"
        aria-label="Name of the rule"
        placeholder="Save as …"
        maxlength="200"
        (input)="shelf.clear()"
        (keydown.escape)="name.value = ''; name.blur(); $event.stopPropagation()"
      />
      <button class="word" type="submit">Save</button>
    </form>
    <button class="word" (click)="load()">Import</button>
    <button class="word" (click)="shelf.export(ruling.rule())">Export</button>
    @if (isOwn()) {
      <button class="word" (click)="rename(name)">Rename</button>
      <button class="word" (click)="remove()">Delete</button>
    }
    @for (rule of shelf.deleted(); track rule) {
      <span class="soft" role="status">“{{ rule.name }}” was deleted.</span>
      <button class="word" (click)="restore(rule)">Undo</button>
    }
    @if (shelf.taken(); as rule) {
      <span role="alert"
        >“{{ rule.name }}” already exists. Choose another name, or
        <button class="word act" (click)="replace(rule, name)">replace it</button>.</span
      >
    }
    @if (shelf.problem()) {
      <span role="alert">{{ shelf.problem() }}</span>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 0 4px;
      min-height: 34px;
    }
    es-pick-one {
      width: 190px;
    }
    form {
      display: inline-flex;
      margin-left: 8px;
    }
    input {
      width: 120px;
      font-size: 13px;
    }
    .soft {
      color: var(--soft);
    }
    .act {
      padding: 0 2px;
      color: var(--action);
    }
  `,
})
export class RuleShelf {
  protected readonly ruling = inject(Ruling);
  protected readonly shelf = new Shelf<Rule>(inject(RuleStore), {
    one: 'rule',
    builtIn: BUILT_IN_RULES,
    toJson: ruleToJson,
    fromJson: ruleFromJson,
  });
  protected readonly options = computed(() => this.shelf.all().map(({ name }) => ({ value: name, text: name })));
  protected readonly isOwn = computed(() => this.shelf.isOwn(this.ruling.rule().name));

  protected choose(name: string): void {
    this.shelf.clear();
    this.look(this.shelf.named(name));
  }

  /** Saves the rule as it is now: an own one in its place, or beside it under the name that was typed. */
  protected async save(event: Event, typed: HTMLInputElement): Promise<void> {
    event.preventDefault();
    const rule = this.ruling.rule();
    const name = typed.value.trim() || (this.isOwn() ? rule.name : '');
    const saved = { ...rule, name };
    if (!(await this.shelf.save(saved, rule.name))) return;
    this.look(saved);
    typed.value = '';
  }

  protected async replace(rule: Rule, typed: HTMLInputElement): Promise<void> {
    if (!(await this.shelf.replace(rule))) return;
    this.look(rule);
    typed.value = '';
  }

  /** Gives the own rule that is looked at the name that was typed. */
  protected async rename(typed: HTMLInputElement): Promise<void> {
    const [rule, name] = [this.shelf.named(this.ruling.rule().name), typed.value.trim()];
    if (!rule || !(await this.shelf.rename(rule, name))) return;
    this.ruling.look({ ...this.ruling.rule(), name });
    typed.value = '';
  }

  protected async remove(): Promise<void> {
    const rule = this.shelf.named(this.ruling.rule().name);
    if (rule && (await this.shelf.remove(rule))) this.look(BUILT_IN_RULES[0]);
  }

  protected async restore(rule: Rule): Promise<void> {
    this.look(await this.shelf.restore(rule));
  }

  protected async load(): Promise<void> {
    this.look(await this.shelf.import());
  }

  private look(rule: Rule | null | undefined): void {
    if (rule) this.ruling.look(rule);
  }
}
