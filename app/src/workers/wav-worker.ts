/** A worker that renders sound; apart, since only a browser can start it. */
export function wavWorker(): Worker {
  return new Worker(new URL('./wav.worker', import.meta.url), { type: 'module' });
}
