/** A worker that reads and writes song files; apart, since only a browser can start it. */
export function keepingWorker(): Worker {
  return new Worker(new URL('./keeping.worker', import.meta.url), { type: 'module' });
}
