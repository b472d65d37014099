export * from './edit';
export * from './history';
