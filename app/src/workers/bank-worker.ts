/** A worker that reads banks of sounds; apart, since only a browser can start it. */
export function bankWorker(): Worker {
  return new Worker(new URL('./bank.worker', import.meta.url), { type: 'module' });
}
