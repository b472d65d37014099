/** A worker that listens to performances; apart, since only a browser can start it. */
export function analysisWorker(): Worker {
  return new Worker(new URL('./analysis.worker', import.meta.url), { type: 'module' });
}
