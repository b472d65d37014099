/**
 * Makes Enter count once, however long it is held: it comes again and again then, and browsers press the button that has
 * the focus, or send off the form, each time.
 */
export function enterOnce(): void {
  const swallow = (event: KeyboardEvent) => {
    if (event.key !== 'Enter' || !event.repeat) return;
    event.preventDefault();
    event.stopImmediatePropagation();
  };
  addEventListener('keydown', swallow, { capture: true });
}
