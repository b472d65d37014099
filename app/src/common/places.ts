import { meterOf, type Song } from '@early-sparrow/core/song';

type Times = Pick<Song, 'ppq' | 'meter'>;

/** Bar, beat and sixteenth of a whole tick, as `3.2.3`. */
export function placeText(song: Times, tick: number): string {
  const { bar, beat, tick: rest } = meterOf(song).toBarBeat(Math.max(0, tick));
  return `${bar}.${beat}.${Math.floor((rest * 4) / song.ppq) + 1}`;
}

/** The tick of a place that was typed as `5`, `5.2` or `5.2.3`; null where the song has none such. */
export function readPlace(song: Times, text: string): number | null {
  const found = /^\s*(\d{1,6})(?:[.\s]+(\d{1,3}))?(?:[.\s]+(\d{1,3}))?\s*$/.exec(text);
  if (!found) return null;
  const [bar, beat, sixteenth] = found.slice(1).map((n?: string) => (n === undefined ? 1 : Number(n)));
  const meter = meterOf(song);
  if (bar < 1) return null;
  const start = meter.tickOfBar(bar);
  const { numerator, beatTicks } = meter.pieceAt(start);
  const inBeat = ((sixteenth - 1) * song.ppq) / 4;
  if (!(beat >= 1 && beat <= numerator && sixteenth >= 1 && inBeat < beatTicks)) return null;
  return Math.ceil(start + (beat - 1) * beatTicks + inBeat);
}

/** What is said of a place that cannot be read. */
export const PLACE_PROBLEM = 'Type a place of the song: its bar, as 5, or bar and beat, as 5.2.';
