import { InputModalityDetector } from '@angular/cdk/a11y';
import { DestroyRef, inject, Injectable } from '@angular/core';

/**
 * Whether the keyboard brought the focus to where it is. The browser's own `:focus-visible` will not do: it becomes
 * true for what was clicked as soon as any key is pressed.
 */
@Injectable()
export class FocusOrigin {
  private readonly modality = inject(InputModalityDetector);
  private keyboard = false;

  constructor() {
    const came = () => (this.keyboard = this.modality.mostRecentModality === 'keyboard');
    document.addEventListener('focusin', came);
    inject(DestroyRef).onDestroy(() => document.removeEventListener('focusin', came));
  }

  byKeyboard(): boolean {
    return this.keyboard;
  }
}
