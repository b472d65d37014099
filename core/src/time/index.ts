export * from './amount';
export * from './meter';
export * from './tempo';
