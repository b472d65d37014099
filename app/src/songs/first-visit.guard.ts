import { inject, Injector, runInInjectionContext } from '@angular/core';
import { isFirstVisit } from './visited';

/** Goes to the demo song on a first visit. The songs are shown whatever comes of it. */
export async function firstVisitGuard(): Promise<boolean> {
  const injector = inject(Injector);
  if (isFirstVisit()) {
    const { beginWithDemo } = await import('./first-visit');
    await runInInjectionContext(injector, beginWithDemo).catch(() => undefined);
  }
  return true;
}
