import { computed, effect, inject, Injectable, Injector, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { SwUpdate } from '@angular/service-worker';
import { Store } from '@ngrx/store';
import { filter, map } from 'rxjs';
import { Notices } from '../common/notices';
import { deskFeature } from './desk.feature';

/** A page that stays open asks for a newer version so often, in ms. */
const ASKED_EVERY = 6 * 3600_000;

/**
 * Newer versions of the program. A message announces one; it opens with the next visit, or on request as soon as every
 * step is saved.
 */
@Injectable({ providedIn: 'root' })
export class Updates {
  private readonly worker = inject(SwUpdate);
  private readonly notices = inject(Notices);
  private readonly injector = inject(Injector);
  private readonly unsaved = inject(Store).selectSignal(deskFeature.selectUnsaved);
  private readonly ready = toSignal(
    this.worker.versionUpdates.pipe(
      filter((e) => e.type === 'VERSION_READY'),
      map(() => true),
    ),
    { initialValue: false },
  );
  private readonly wanted = signal(false);
  private readonly now = computed(() => this.wanted() && this.unsaved() === 0);

  watch(): void {
    if (!this.worker.isEnabled) return;
    setInterval(() => void this.worker.checkForUpdate().catch(() => false), ASKED_EVERY);
    const { injector } = this;
    effect(() => this.ready() && void this.tell(), { injector });
    effect(() => this.now() && void this.load(), { injector });
  }

  private async tell(): Promise<void> {
    const bar = await this.notices.open('A new version is ready. It opens with your next visit.', 'Reload now');
    bar.onAction().subscribe(() => {
      this.wanted.set(true);
      if (this.unsaved() > 0) void this.notices.open('The new version opens as soon as your last steps are saved.');
    });
  }

  private async load(): Promise<void> {
    await this.worker.activateUpdate().catch(() => false);
    location.reload();
  }
}
