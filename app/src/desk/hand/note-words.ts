import { stepTicks } from '@early-sparrow/core/grid';
import { isDrums, percussionName } from '@early-sparrow/core/sound';
import { meterOf, tempoOf, type Song, type Track } from '@early-sparrow/core/song';
import { describeTicks } from '@early-sparrow/core/time';
import { earlyOrLate, pitchName } from '../../common/format';
import { leanOf, type Picture } from './picture';

/** A note in words: what it is and where, how it was played in all three units, and where it lies now. */
export interface NoteWords {
  readonly name: string;
  readonly lines: readonly string[];
  /** Class of the colour of its offset on the side that is shown. */
  readonly lean: 'early' | 'on-line' | 'late';
}

const LEANS = ['early', 'on-line', 'late'] as const;
const EXCEPTIONS = { own: 'own settings', 'as-played': 'left as played', pinned: 'pinned', dropped: 'muted double' };

export function noteWords(note: number, picture: Picture, corrected: boolean, song: Song, track: Track): NoteWords {
  const { bar, beat } = meterOf(song).toBarBeat(Math.round(picture.line[note]));
  const pitch = picture.pitch[note];
  const name = `${isDrums(track) ? percussionName(pitch) : pitchName(pitch)}, bar ${bar} beat ${beat}`;
  const before = picture.before[note];
  const after = picture.after[note];
  const bpm = tempoOf(song).bpmAt(picture.played[note]);
  const ticks = Math.abs(picture.played[note] - picture.line[note]);
  const step = stepTicks(picture.part.treatment.quantize.grid, song.ppq);
  const exception = picture.part.notes[note]?.exception;
  const lines = [
    `${after === before ? '' : 'played '}${earlyOrLate(before)}`,
    ...(ticks === 0 ? [] : [describeTicks(ticks, song.ppq, bpm), `${Math.round((100 * ticks) / step)} % of a step`]),
    ...(after === before ? [] : [`now ${earlyOrLate(after)}`]),
    ...(exception ? [EXCEPTIONS[exception.kind]] : []),
  ];
  return { name, lines, lean: LEANS[leanOf((corrected ? picture.after : picture.before)[note])] };
}
