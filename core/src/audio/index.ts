export * from './onsets';
export * from './reference';
export * from './wav-read';
