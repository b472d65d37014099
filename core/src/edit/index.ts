export * from './commands';
export { applyEdit, EDIT_KINDS, readEdit, type Applied, type Edit, type EditKindName, type SimpleEdit } from './edit';
export * from './history';
export * from './keep';
export { isProblem, type EditProblem } from './kind';
export { changeNotes } from './kinds/notes';
export { replayVersion1 } from './version-1';
export * from './fit-tempo';
