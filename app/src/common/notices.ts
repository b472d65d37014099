import { inject, Injectable, Injector } from '@angular/core';
import type { MatSnackBar, MatSnackBarRef, TextOnlySnackBar } from '@angular/material/snack-bar';

/** Messages in a bar at the foot. Its code is fetched when the page is at rest, or with the first message. */
@Injectable({ providedIn: 'root' })
export class Notices {
  private readonly injector = inject(Injector);

  constructor() {
    // Where it cannot be had, the first message asks again.
    void rest()
      .then(bar)
      .catch(() => undefined);
  }

  async open(...message: Parameters<MatSnackBar['open']>): Promise<MatSnackBarRef<TextOnlySnackBar>> {
    const { MatSnackBar } = await bar();
    return this.injector.get(MatSnackBar).open(...message);
  }
}

const bar = () => import('@angular/material/snack-bar');

/** Not every browser tells when it is at rest. */
const rest = () =>
  new Promise<void>((done) => {
    if ('requestIdleCallback' in window) requestIdleCallback(() => done(), { timeout: 2000 });
    else setTimeout(done, 500);
  });
