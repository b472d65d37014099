export * from './onsets';
export * from './peaks';
export * from './reference';
export * from './wav-read';
