export * from './median';
export * from './normal';
export * from './random';
