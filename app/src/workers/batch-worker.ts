/** A worker that corrects whole files; apart, since only a browser can start it. */
export function batchWorker(): Worker {
  return new Worker(new URL('./batch.worker', import.meta.url), { type: 'module' });
}
