import { startedAhead } from './ahead';

const workers = startedAhead(() => new Worker(new URL('./analysis.worker', import.meta.url), { type: 'module' }));

/** A worker that listens to performances; apart, since only a browser can start it. */
export const analysisWorker = workers.take;
/** Starts it before there is something to listen to. */
export const analysisAhead = workers.ahead;
