export * from './event';
export * from './groove';
export * from './look';
export * from './song';
export * from './treatment';
export * from './keep';
