export * from './onsets';
export * from './peaks';
export * from './sound-file';
export * from './wav-read';
