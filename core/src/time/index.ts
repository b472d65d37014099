export * from './amount';
export * from './ramp';
export * from './read-amount';
export * from './meter';
export * from './tempo';
export * from './units';
