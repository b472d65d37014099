export * from './constant';
export * from './first-at';
export * from './median';
export * from './normal';
export * from './random';
export * from './bootstrap';
export * from './binomial';
export * from './middle';
