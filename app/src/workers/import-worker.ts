/** A worker that reads MIDI files; apart, since only a browser can start it. */
export function importWorker(): Worker {
  return new Worker(new URL('./import.worker', import.meta.url), { type: 'module' });
}
