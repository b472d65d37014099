export * from './json';
export * from './problem';
export * from './schema';
export * from './song-file';
export { MOST_SONG_FILE } from './unzip';
export { digest } from '../maths';
export * from './zip-files';
