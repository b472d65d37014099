const KEY = 'early-sparrow.visited';

/** Whether this browser has never shown the songs before. */
export function isFirstVisit(): boolean {
  return localStorage.getItem(KEY) === null;
}

export function rememberVisit(): void {
  localStorage.setItem(KEY, 'yes');
}
