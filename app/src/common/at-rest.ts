import { debounceTime, first, fromEvent, map, merge, of, switchMap, timer, type Observable } from 'rxjs';

/** What a person does to a page. */
const DEEDS = ['pointerdown', 'pointermove', 'keydown', 'wheel', 'dragover', 'drop'];

/**
 * Tells once that nobody has done anything to the page for a while.
 * @param earliest not before so long after the call, in ms
 * @param quiet and so long after what was done last, in ms; at most as long as `earliest`
 */
export function atRest(earliest: number, quiet: number): Observable<void> {
  const deeds = DEEDS.map((name) => fromEvent(window, name, { capture: true, passive: true }));
  return timer(earliest - quiet).pipe(
    switchMap(() => merge(of(null), ...deeds)),
    debounceTime(quiet),
    first(),
    map(() => undefined),
  );
}
