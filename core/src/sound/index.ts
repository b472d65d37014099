export * from './scheduler';
export * from './timeline';
export * from './voice';
