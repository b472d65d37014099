/** Names of standard MIDI files. */
export const MIDI_NAME = /\.(mid|midi|smf|rmi|kar)$/i;
/** Endings of sound files. */
export const AUDIO_ENDINGS = ['.wav', '.mp3', '.ogg', '.flac', '.m4a'];

/** Whether a file calls itself sound. */
export function isAudio({ type, name }: File): boolean {
  if (/midi?$/.test(type) || MIDI_NAME.test(name)) return false;
  return type.startsWith('audio/') || AUDIO_ENDINGS.some((ending) => name.toLowerCase().endsWith(ending));
}
