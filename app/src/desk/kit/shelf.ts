import { computed, inject, signal, type Signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { from } from 'rxjs';
import { fileName } from '@early-sparrow/core/keeping';
import { freeTitle } from '@early-sparrow/core/song';
import { isClosedWindow } from '../../common/closed-window';
import { chooseJson } from '../../common/json-file';
import { Saving } from '../../common/saving';
import type { NamedStore } from '../../storage/named-store';

/** What stands on a shelf. */
export interface Kind<T> {
  /** What people call one: `rule`. */
  readonly one: string;
  readonly builtIn: readonly T[];
  readonly toJson: (one: T) => string;
  /** @throws Error with a sentence for a text that cannot be read */
  readonly fromJson: (text: string) => T;
}

/**
 * Own things beside built-in ones, such as recipes and rules, each under its name: saved, renamed, deleted and brought
 * back, written and read. Nothing is replaced unasked. Made where Angular injects.
 */
export class Shelf<T extends { readonly name: string }> {
  readonly builtIn: readonly T[];
  readonly own: Signal<readonly T[]>;
  readonly all = computed((): readonly T[] => [...this.builtIn, ...this.own()]);
  /** What went wrong last, in a sentence; empty where nothing did. */
  readonly problem = signal('');
  /** The own one that saving would replace: it waits for the user to say so. */
  readonly taken = signal<T | null>(null);
  readonly deleted = signal<readonly T[]>([]);
  private readonly saving = inject(Saving);

  constructor(
    private readonly store: NamedStore<T>,
    private readonly kind: Kind<T>,
  ) {
    this.builtIn = kind.builtIn;
    this.own = toSignal(from(store.list$), { initialValue: [] as T[] });
  }

  named(name: string): T | undefined {
    return this.all().find((one) => one.name === name);
  }

  isOwn(name: string): boolean {
    return this.own().some((one) => one.name === name);
  }

  /** Takes back what was said and asked: it is about what was typed before. */
  clear(): void {
    this.problem.set('');
    this.taken.set(null);
  }

  /**
   * Saves one under its name. Another own one of that name is not replaced: the user is asked.
   * @param over the name of the one that it is a new state of, which is replaced
   * @returns whether it was saved
   */
  async save(one: T, over?: string): Promise<boolean> {
    const { name } = one;
    this.clear();
    if (!name) this.problem.set(`Give the ${this.kind.one} a name first.`);
    else if (this.builtIn.some((other) => other.name === name)) {
      this.problem.set(`“${name}” is built in. Choose another name.`);
    } else if (name !== over && (await this.has(name))) this.taken.set(one);
    else return this.put(one);
    return false;
  }

  /** Saves one in place of another of its name, as the user was asked. */
  async replace(one: T): Promise<boolean> {
    this.taken.set(null);
    return this.put(one);
  }

  /** Gives an own one the name that was typed. @returns whether it has it now */
  async rename(one: T, typed: string): Promise<boolean> {
    const name = typed.trim();
    this.taken.set(null);
    const isOther = name !== one.name && this.named(name) !== undefined;
    if (!name) this.problem.set('Type the new name first.');
    else if (isOther) this.problem.set(`“${name}” already exists. Choose another name.`);
    else return name === one.name || this.write(() => this.store.rename(one, name));
    return false;
  }

  async remove(one: T): Promise<boolean> {
    if (!(await this.write(() => this.store.remove(one.name)))) return false;
    this.deleted.update((list) => [...list, one]);
    return true;
  }

  /** Brings back one that was deleted. @returns it, by another name where its own is taken; null where that failed */
  async restore(one: T): Promise<T | null> {
    const back = await this.add(one);
    if (back) this.deleted.update((list) => list.filter((other) => other !== one));
    return back;
  }

  async export(one: T): Promise<void> {
    const blob = new Blob([this.kind.toJson(one)], { type: 'application/json' });
    await this.saving.save(blob, `${fileName(one.name)}.json`);
  }

  /** Reads one from a file that the user chooses. @returns it, as it is saved; null for none */
  async import(): Promise<T | null> {
    const { one } = this.kind;
    try {
      const text = await chooseJson(`${one.charAt(0).toUpperCase()}${one.slice(1)}s`);
      return await this.add(this.kind.fromJson(text));
    } catch (error) {
      if (!isClosedWindow(error)) {
        this.problem.set(error instanceof Error ? error.message : `The ${one} could not be read.`);
      }
      return null;
    }
  }

  /** Asked of the store: another tab may have saved one just now. */
  private has(name: string): Promise<boolean> {
    return this.store.has(name).catch(() => this.isOwn(name));
  }

  /** Puts one beside what is there. */
  private async add(one: T): Promise<T | null> {
    const name = freeTitle(one.name, (n) => this.named(n) !== undefined);
    const named = { ...one, name };
    return (await this.put(named)) ? named : null;
  }

  private put(one: T): Promise<boolean> {
    return this.write(() => this.store.put(one));
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
}
