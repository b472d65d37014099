// What opens on the desk, in one script: each in a script of its own shared so much with the others and the desk that the
// browser had to ask for sixty small ones before the desk was there.
export { PartStrip } from './arrange/part-strip';
export { BringStrip } from './files/bring-strip';
export { ExportStrip } from './files/export-strip';
export { HistoryStrip } from './history/history-strip';
export { BestStrip } from './recording/best-strip';
export { RemedyStrip } from './remedy/remedy-strip';
export { RuleStrip } from './rules/rule-strip';
export { SelectStrip } from './shape/select-strip';
export { ShapeStrip } from './shape/shape-strip';
export { TidyStrip } from './shape/tidy-strip';
export { TimeStrip } from './tempo/time-strip';
export { TrackStrip } from './tracks/track-strip';
