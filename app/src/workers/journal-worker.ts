/** A worker that writes steps of very many notes; apart, since only a browser can start it. */
export function journalWorker(): Worker {
  return new Worker(new URL('./journal.worker', import.meta.url), { type: 'module' });
}
