export * from './grid';
export * from './lines';
export * from './midway';
export * from './pattern';
export * from './text';
export * from './aligned';
