import type { DestroyRef } from '@angular/core';

/**
 * Takes back what is on its way, such as a drag or a held key, by Escape and when the window loses the focus. Escape
 * then does nothing else; when nothing is on its way it is left to others.
 * @param underWay whether there is anything to take back
 */
export function takingBack(destroy: DestroyRef, underWay: () => boolean, cancel: () => void): void {
  const escape = (event: KeyboardEvent) => {
    if (event.key !== 'Escape' || !underWay()) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    cancel();
  };
  window.addEventListener('keydown', escape, true);
  window.addEventListener('blur', cancel);
  destroy.onDestroy(() => {
    window.removeEventListener('keydown', escape, true);
    window.removeEventListener('blur', cancel);
    cancel();
  });
}
