export * from './grid';
export * from './lines';
export * from './pattern';
export * from './text';
export * from './aligned';
