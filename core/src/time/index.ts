export * from './amount';
export * from './read-amount';
export * from './meter';
export * from './tempo';
export * from './units';
