export * from './correct';
export * from './output';
