import { startedAhead } from './ahead';

const workers = startedAhead(() => new Worker(new URL('./import.worker', import.meta.url), { type: 'module' }));

/** A worker that reads MIDI files; apart, since only a browser can start it. */
export const importWorker = workers.take;
/** Starts it before there is a file. */
export const importAhead = workers.ahead;
