// What opens on the desk, in one script. With a script for each, what they share with each other and with the desk became
// sixty small ones, all of which had to come before the desk.
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
