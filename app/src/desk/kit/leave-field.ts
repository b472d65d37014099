import type { DestroyRef } from '@angular/core';
import { isField } from './desk-keys';

/**
 * Escape in a field takes back what was typed and not taken over yet, and gives the keys back to the desk; a search is
 * emptied. Fields that do something of their own on Escape, and those of dialogs, which it closes, are left alone.
 */
export function leavingFields(destroy: DestroyRef): void {
  /** What stood in the field before somebody typed; null where nothing was typed. */
  let stood: string | null = null;
  const taken = () => (stood = null);
  const typing = ({ target }: Event) => {
    if (target instanceof HTMLInputElement) stood ??= target.value;
  };
  const escape = (event: KeyboardEvent) => {
    const { key, target } = event;
    if (key !== 'Escape' || event.defaultPrevented || event.isComposing) return;
    if (!(target instanceof HTMLInputElement) || !isField(target) || target !== document.activeElement) return;
    if (target.closest('[role=dialog]')) return;
    event.preventDefault();
    const before = target.type === 'search' ? '' : (stood ?? target.value);
    if (before !== target.value) {
      target.value = before;
      target.dispatchEvent(new Event('input', { bubbles: true }));
    }
    target.blur();
  };
  const listeners = [
    ['focusin', taken],
    ['change', taken],
    ['beforeinput', typing],
    ['keydown', escape],
  ] as const;
  for (const [kind, listener] of listeners) document.addEventListener(kind, listener as EventListener);
  destroy.onDestroy(() => {
    for (const [kind, listener] of listeners) document.removeEventListener(kind, listener as EventListener);
  });
}
