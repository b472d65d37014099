import { afterNextRender, inject, Injector } from '@angular/core';

/**
 * Does something once what has changed is on the screen. Until then a component's inputs are still the old ones, and a
 * key that is held can be quicker than the screen.
 */
export function onceRendered(): (then: () => void) => void {
  const injector = inject(Injector);
  return (then) => void afterNextRender({ read: then }, { injector });
}
