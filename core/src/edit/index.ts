export * from './edit';
export * from './history';
export * from './keep';
