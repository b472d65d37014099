/** `one note`, `3 notes`. */
export function counted(n: number, what: string, many = `${what}s`): string {
  return n === 1 ? `one ${what}` : `${n} ${many}`;
}

/** Names of the twelve pitches, from C up. */
export const PITCH_NAMES = ['C', 'C♯', 'D', 'D♯', 'E', 'F', 'F♯', 'G', 'G♯', 'A', 'A♯', 'B'];

/** A pitch's name with its octave; 60 is middle C, C4. */
export function pitchName(pitch: number): string {
  return `${PITCH_NAMES[pitch % 12]}${Math.floor(pitch / 12) - 1}`;
}
