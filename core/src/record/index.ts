export * from './calibrate';
export * from './collect';
export * from './held-down';
export * from './message';
export * from './practice';
export * from './recorded';
export * from './passes';
