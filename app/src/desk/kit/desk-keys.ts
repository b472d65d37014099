/** Kinds of input elements that are no fields to write in. */
const PRESSED = ['range', 'checkbox', 'radio', 'button', 'submit', 'file'];
/** Keys that move a slider. */
const SLIDING = ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Home', 'End', 'PageUp', 'PageDown'];
/** Keys that a list or a row of choices moves by. */
const CHOOSING = SLIDING.slice(0, 4);

/**
 * Whether a key belongs to the control that has the focus rather than to the desk.
 *
 * A field owns everything but saving and the command list. A slider owns what moves it; digits and letters too,
 * once the keyboard brought the focus there: after a drag with the pointer they are the desk's again, as people
 * drag and then go on with a key. A button owns space and enter only when the keyboard brought the focus to it:
 * after a click, space plays.
 * @param byKeyboard whether the keyboard brought the focus to where it is
 */
export function belongsToControl(event: KeyboardEvent, byKeyboard: boolean): boolean {
  const target = event.target as HTMLElement | null;
  if (!target?.matches) return false;
  // Somebody has taken it already, such as a slider whose field a digit begins.
  if (event.defaultPrevented) return true;
  const command = event.ctrlKey || event.metaKey;
  const { key } = event;
  if (isField(target)) return key === 'Escape' || !(command && ['s', 'k'].includes(key.toLowerCase()));
  if (target.closest('[role=menu], [role=listbox], [role=dialog]')) return key !== 'Escape' || command;
  if (target.matches('input[type=range], [role=slider]')) {
    if (command || event.altKey || key === 'Escape' || key === ' ') return false;
    return SLIDING.includes(key) || (key.length === 1 && byKeyboard);
  }
  if (target.matches('[role=combobox]')) return byKeyboard && key !== 'Escape' && !command;
  if (target.closest('[role=radiogroup]') && CHOOSING.includes(key)) return !event.altKey;
  const presses = key === ' ' || key === 'Enter';
  return presses && byKeyboard && target.closest('button, a, [role=radio], [role=switch]') !== null;
}

/** Whether keys write something there. */
export function isField(target: HTMLElement): boolean {
  if (target.matches('textarea, [contenteditable]')) return true;
  return target instanceof HTMLInputElement && !PRESSED.includes(target.type);
}
