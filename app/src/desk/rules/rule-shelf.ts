import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { fileSave } from 'browser-fs-access';
import { isClosedWindow } from '../../common/closed-window';
import { from } from 'rxjs';
import { BUILT_IN_RULES, ruleFromJson, ruleToJson, type Rule } from '@early-sparrow/core/rules';
import { chooseJson } from '../../common/json-file';
import { PickOne } from '../../common/pick-one';
import { RuleStore } from '../../storage/rule-store';
import { Ruling } from './ruling';

/** Rules to choose from; own ones are saved, exported, imported and deleted. */
@Component({
  selector: 'es-rule-shelf',
  imports: [PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <es-pick-one label="Rule" [value]="ruling.rule().name" [options]="options()" (picked)="choose($event)" />
    <form (submit)="save($event, name.value)">
      <input
        #name
        class="entry"
        aria-label="Name of the rule"
        placeholder="Save as …"
        maxlength="200"
        (input)="problem.set('')"
        (keydown.escape)="name.value = ''; name.blur(); $event.stopPropagation()"
      />
      <button class="word" type="submit">Save</button>
    </form>
    <button class="word" (click)="load()">Import</button>
    <button class="word" (click)="export()">Export</button>
    @if (isOwn()) {
      <button class="word" (click)="rename(name.value)">Rename</button>
      <button class="word" (click)="remove()">Delete</button>
    }
    @if (deleted(); as rule) {
      <span class="soft" role="status">“{{ rule.name }}” was deleted.</span>
      <button class="word" (click)="restore(rule)">Undo</button>
    }
    @if (problem()) {
      <span role="alert">{{ problem() }}</span>
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
  `,
})
export class RuleShelf {
  protected readonly ruling = inject(Ruling);
  private readonly store = inject(RuleStore);
  private readonly own = toSignal(from(this.store.list$), { initialValue: [] as Rule[] });
  protected readonly problem = signal('');
  protected readonly deleted = signal<Rule | null>(null);
  private readonly all = computed(() => [...BUILT_IN_RULES, ...this.own()]);
  protected readonly options = computed(() => this.all().map(({ name }) => ({ value: name, text: name })));
  protected readonly isOwn = computed(() => this.own().some((r) => r.name === this.ruling.rule().name));

  protected choose(name: string): void {
    const rule = this.all().find((r) => r.name === name);
    if (rule) this.ruling.look(rule);
  }

  /** Keeps the rule as it is now; an own one of that name is replaced. */
  protected save(event: Event, text: string): void {
    event.preventDefault();
    const name = text.trim() || (this.isOwn() ? this.ruling.rule().name : '');
    if (!name) this.problem.set('Give the rule a name first.');
    else if (BUILT_IN_RULES.some((r) => r.name === name)) {
      this.problem.set(`“${name}” is built in. Choose another name.`);
    } else void this.keep({ ...this.ruling.rule(), name });
  }

  /** Gives the own rule that is looked at the name that was typed. */
  protected async rename(text: string): Promise<void> {
    const before = this.ruling.rule().name;
    const name = text.trim();
    if (!name || name === before) this.problem.set('Type the new name first.');
    else if (this.all().some((r) => r.name === name)) {
      this.problem.set(`There is a rule “${name}” already. Choose another name.`);
    } else {
      const rule = this.own().find((r) => r.name === before);
      if (!rule || !(await this.write(() => this.store.rename(rule, name)))) return;
      this.ruling.look({ ...this.ruling.rule(), name });
    }
  }

  protected async remove(): Promise<void> {
    const name = this.ruling.rule().name;
    const rule = this.own().find((r) => r.name === name);
    if (!rule || !(await this.write(() => this.store.remove(name)))) return;
    this.deleted.set(rule);
    this.ruling.look(BUILT_IN_RULES[0]);
  }

  protected async restore(rule: Rule): Promise<void> {
    this.deleted.set(null);
    await this.keep(rule);
  }

  protected async export(): Promise<void> {
    const rule = this.ruling.rule();
    try {
      const blob = new Blob([ruleToJson(rule)], { type: 'application/json' });
      await fileSave(blob, { fileName: `${rule.name}.json`, extensions: ['.json'] });
    } catch (error) {
      if (isClosedWindow(error)) return;
      this.problem.set('The file could not be written. Choose another folder and try again.');
    }
  }

  protected async load(): Promise<void> {
    try {
      const rule = ruleFromJson(await chooseJson('Rules'));
      await this.keep({ ...rule, name: this.freeName(rule.name) });
    } catch (error) {
      if (isClosedWindow(error)) return;
      this.problem.set(error instanceof Error ? error.message : 'The rule could not be read.');
    }
  }

  private async keep(rule: Rule): Promise<void> {
    if (await this.write(() => this.store.put(rule))) this.ruling.look(rule);
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
    for (let n = 2; this.all().some((r) => r.name === free); n++) free = `${name} (${n})`;
    return free;
  }
}
