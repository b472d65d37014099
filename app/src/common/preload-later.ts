import { Injectable } from '@angular/core';
import type { PreloadingStrategy, Route } from '@angular/router';
import { switchMap, timer, type Observable } from 'rxjs';

/** The page that was asked for is left so many ms to itself. */
const LATER_MS = 1000;

/** Gets the other pages ready once the one that was asked for is shown. */
@Injectable({ providedIn: 'root' })
export class PreloadLater implements PreloadingStrategy {
  preload(_route: Route, load: () => Observable<unknown>): Observable<unknown> {
    return timer(LATER_MS).pipe(switchMap(load));
  }
}
