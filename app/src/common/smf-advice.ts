import type { SmfErrorCode } from '@early-sparrow/core/smf';

/** What to do about a file that cannot be opened. */
export const ADVICE: Record<SmfErrorCode, string> = {
  empty: 'It looks cut off. Export it again from the program that made it.',
  unreasonable: 'It may be damaged, or not music at all. Export it again from the program that made it.',
  'too-large': 'Split the piece, or export only the tracks that you want to correct.',
  'not-midi': 'Choose a file that ends in .mid, exported as a standard MIDI file.',
  'bad-header': 'Its start is damaged. Export it again from the program that made it.',
  'no-tracks': 'It has no music in it. Export it again with its tracks.',
};
