import { InjectionToken, type FactoryProvider } from '@angular/core';
import type { At, Gesture } from './pointer';

/**
 * What a key does where the pointer is in the picture: tapped for one note, held and moved for all that is swept. It is
 * a gesture that a key holds instead of a button: Escape takes it back, and only `drop` makes an edit.
 */
export interface Verb {
  readonly id: string;
  readonly group: string;
  /** In the imperative, as the list of commands shows it. */
  readonly name: string;
  /** One word for the strip beside a note; none where it is not shown there. */
  readonly short?: string;
  /** In the notation of tinykeys. */
  readonly keys: readonly string[];
  /** Begins at a place; null where nothing is there that it can do. */
  begin(at: At): Gesture | null;
}

/** The verbs that rooms of the desk contribute; each is a command too. */
export const VERBS = new InjectionToken<readonly (readonly Verb[])[]>('verbs');

/** Contributes verbs. @param make runs where services can be injected */
export function provideVerbs(make: () => readonly Verb[]): FactoryProvider {
  return { provide: VERBS, multi: true, useFactory: make };
}
