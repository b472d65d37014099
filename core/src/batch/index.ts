export * from './correct';
