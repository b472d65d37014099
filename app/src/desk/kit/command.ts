import { InjectionToken, type FactoryProvider } from '@angular/core';

/** Something that can be done from the keyboard or by its name. */
export interface Command {
  /** A verb in the imperative, as the list shows it. */
  readonly name: string;
  readonly group: string;
  /**
   * Keys in the notation of tinykeys: a letter (`q`) or sign (`Shift+?`) means what the key says on the user's layout, a
   * code (`Digit4`, `BracketLeft`) its place. The first one is shown.
   */
  readonly keys: readonly string[];
  /** Whether a key that is held does it again and again. */
  readonly repeats: boolean;
  /** @param at when its key or its row was pressed, on the page's clock, in ms */
  readonly run: (at: number) => void;
  /** What goes on while its key is held; null where there is nothing to do it to. */
  readonly hold?: () => Held | null;
}

/** What goes on for as long as a key is held. */
export interface Held {
  /** The key was let go. */
  drop(): void;
  /** Escape, or the window lost the focus: it is taken back. */
  cancel(): void;
}

/** The commands that a room of the desk contributes. */
export const COMMANDS = new InjectionToken<readonly (readonly Command[])[]>('commands');

/** Contributes commands. @param make runs where services can be injected */
export function provideCommands(make: () => readonly Command[]): FactoryProvider {
  return { provide: COMMANDS, multi: true, useFactory: make };
}

export function command(group: string, name: string, keys: readonly string[], run: Command['run']): Command {
  return { group, name, keys, repeats: false, run };
}

/** A command whose key repeats while it is held. */
export function repeating(group: string, name: string, keys: readonly string[], run: Command['run']): Command {
  return { group, name, keys, repeats: true, run };
}

/** A command that goes on while its key is held; chosen from the list it is over at once. */
export function holding(group: string, name: string, keys: readonly string[], hold: () => Held | null): Command {
  return { group, name, keys, repeats: false, run: () => hold()?.drop(), hold };
}
