export * from './best';
export * from './choose';
export * from './compare';
export { measureTakes, type TakeNotes } from './take-notes';
