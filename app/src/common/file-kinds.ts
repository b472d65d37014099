/** Names of standard MIDI files. */
export const MIDI_NAME = /\.(mid|midi|smf|rmi|kar)$/i;
/** Endings of sound files. */
export const AUDIO_ENDINGS = ['.wav', '.mp3', '.ogg', '.flac', '.m4a'];

/** Whether a file calls itself sound. */
export function isAudio({ type, name }: File): boolean {
  if (/midi?$/.test(type) || MIDI_NAME.test(name)) return false;
  return type.startsWith('audio/') || AUDIO_ENDINGS.some((ending) => name.toLowerCase().endsWith(ending));
}

/** The ending of a song file's name, and its media type. */
export const SONG_FILE_ENDING = '.sparrow';
export const SONG_FILE_TYPE = 'application/vnd.early-sparrow.song+zip';
/** Names of song files. */
export const SONG_NAME = /\.sparrow$/i;

/** Whether a file is a song file: by its name, or because it begins as a zip file does (PKWARE APPNOTE 6.3, 4.3.7). */
export async function isSongFile(file: File): Promise<boolean> {
  if (SONG_NAME.test(file.name)) return true;
  const begin = new Uint8Array(
    await file
      .slice(0, 4)
      .arrayBuffer()
      .catch(() => new ArrayBuffer(0)),
  );
  return [0x50, 0x4b, 0x03, 0x04].every((b, i) => begin[i] === b);
}
