export * from './performance';
