/** A worker that listens to recordings; apart, since only a browser can start it. */
export function audioWorker(): Worker {
  return new Worker(new URL('./audio.worker', import.meta.url), { type: 'module' });
}
