export * from './bar-edits';
export * from './bring-in';
export { Building, stepOf } from './building';
export { changePart, eventsEdit, spanWith } from './change-part';
export * from './commands';
export {
  applyEdit,
  EDIT_KINDS,
  editsIn,
  LONG_STEP,
  notesIn,
  readEdit,
  type Applied,
  type Edit,
  type EditKindName,
  type SimpleEdit,
} from './edit';
export * from './history';
export * from './keep';
export { isProblem, type EditProblem } from './kind';
export { changeNotes } from './kinds/notes';
export { replayVersion1 } from './version-1';
export * from './fit-tempo';
export * from './new-song';
export * from './part-edits';
export * from './time-edits';
export * from './track-edits';
