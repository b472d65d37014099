import { inject, Injectable, Injector } from '@angular/core';
import type { MatSnackBar, MatSnackBarRef, TextOnlySnackBar } from '@angular/material/snack-bar';

/** Messages in a bar at the foot. Its code is fetched when the page is at rest: nothing is said before. */
@Injectable({ providedIn: 'root' })
export class Notices {
  private readonly injector = inject(Injector);
  private readonly bar = rest().then(() => import('@angular/material/snack-bar'));

  async open(...message: Parameters<MatSnackBar['open']>): Promise<MatSnackBarRef<TextOnlySnackBar>> {
    const { MatSnackBar } = await this.bar;
    return this.injector.get(MatSnackBar).open(...message);
  }
}

/** Not every browser tells when it is at rest. */
const rest = () =>
  new Promise<void>((done) => {
    if ('requestIdleCallback' in window) requestIdleCallback(() => done(), { timeout: 2000 });
    else setTimeout(done, 500);
  });
