export * from './analyse';
export { plainCandidates } from './candidates';
export * from './lag';
export * from './offsets';
export * from './reason';
export * from './suggest';
export * from './swing';
export * from './tendencies';
export * from './report-table';
