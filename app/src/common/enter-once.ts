/** Makes a held Enter count once: browsers repeat it, and each repeat would press the focused button or submit the form. */
export function enterOnce(): void {
  const swallow = (event: KeyboardEvent) => {
    if (event.key !== 'Enter' || !event.repeat) return;
    event.preventDefault();
    event.stopImmediatePropagation();
  };
  addEventListener('keydown', swallow, { capture: true });
}
