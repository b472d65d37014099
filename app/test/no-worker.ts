const none = (): Worker => {
  throw new Error('There are no workers here.');
};

export const analysisWorker = none;
export const importWorker = none;
export const journalWorker = none;

export const analysisAhead = (): void => undefined;
export const importAhead = (): void => undefined;
