/** A worker that reads MIDI files; apart, since only a browser can start it. */
export function importWorker(): Worker {
  return new Worker(new URL('../workers/import.worker', import.meta.url), { type: 'module' });
}
