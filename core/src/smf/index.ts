export { MAX_BYTES } from './chunks';
export * from './groove-file';
export * from './problem';
export { readSmf, type ImportedSong } from './read';
export { writeSmf } from './write';
