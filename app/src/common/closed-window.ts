/** Whether the user closed a file window without a choice: that is no error. */
export function isClosedWindow(error: unknown): boolean {
  return error instanceof DOMException && error.name === 'AbortError';
}
