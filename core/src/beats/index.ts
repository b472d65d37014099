export * from './bars';
export * from './downbeat';
export * from './find-beats';
export * from './fit-beats';
export * from './onsets';
export * from './readings';
export * from './tempo-fit';
