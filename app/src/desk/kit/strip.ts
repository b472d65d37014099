import { inject, InjectionToken, type FactoryProvider, type Type } from '@angular/core';
import { Panels } from './panels';

/** What opens over the picture, within its ruler, under the head, or at the foot of the desk. */
export interface Strip {
  readonly id: string;
  readonly place: 'head' | 'picture' | 'ruler' | 'foot';
  /** Strips with a lower one lie above. */
  readonly order: number;
  /** Whether it is there; one that is always there decides by itself what it shows. */
  isOpen(): boolean;
  /** Its component; one that is large is fetched when it is first opened. */
  readonly component: Type<unknown> | (() => Promise<Type<unknown>>);
  /** Whether `component` fetches it. */
  readonly lazy?: boolean;
}

/** The strips that rooms of the desk contribute. */
export const STRIPS = new InjectionToken<readonly Strip[]>('strips');

export function provideStrip(make: () => Strip): FactoryProvider {
  return { provide: STRIPS, multi: true, useFactory: make };
}

/** A strip at the foot that is fetched when it is first opened. @param id its name among the panels */
export function provideFootStrip(id: string, component: () => Promise<Type<unknown>>): FactoryProvider {
  return provideStrip(() => {
    const panels = inject(Panels);
    return { id, place: 'foot', order: 15, isOpen: () => panels.isOpen(id), component, lazy: true };
  });
}

export const always = (): boolean => true;
