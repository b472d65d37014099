import { InjectionToken, type Provider, type Type } from '@angular/core';
import type { At, Gesture } from './pointer';

/**
 * What a key does where the pointer is in the picture: tapped for one note, held and moved for all that is swept. It is
 * a gesture that a key holds instead of a button: Escape takes it back, and only `drop` makes an edit.
 */
export interface Verb {
  readonly group: string;
  /** In the imperative, as the list of commands shows it. */
  readonly name: string;
  /** In the notation of tinykeys. */
  readonly keys: readonly string[];
  /** Begins at a place; null where nothing is there that it can do. */
  begin(at: At): Gesture | null;
}

/** The verbs that rooms of the desk contribute; each is a command too. */
export const VERBS = new InjectionToken<readonly Verb[]>('verbs');

export function provideVerb(verb: Type<Verb>): Provider[] {
  return [verb, { provide: VERBS, multi: true, useExisting: verb }];
}
