export * from './best';
export * from './choose';
export * from './compare';
export type { Compared, TakeNotes } from './take-notes';
