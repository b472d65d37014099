import { MOST_HOURS, tempoOf, type Song, type SongTimes } from '../song';
import { SmfError } from './problem';
import type { ReadTrack } from './track-reader';

/** What is beyond these is no song, and would freeze whatever shows it. */
const MOST_NOTES = 2_000_000;
const MOST_EVENTS = 3_000_000;
const MOST_TEMPI = 100_000;
const MOST_METERS = 20_000;
const MOST_MARKERS = 100_000;

/**
 * Refuses what a song cannot reasonably be, before anything of it is kept.
 * @param tracks with their events in the song's ticks
 * @throws SmfError with a sentence that says what is too much
 */
export function checkReasonable(
  song: SongTimes & Pick<Song, 'markers'>,
  tracks: readonly ReadTrack[],
  factor: number,
): void {
  const refuse = (text: string): never => {
    throw new SmfError('unreasonable', 0, text);
  };
  const sum = (count: (t: ReadTrack) => number) => tracks.reduce((all, t) => all + count(t), 0);
  const most = (what: string, count: number, limit: number) => {
    if (count > limit) refuse(`The file has ${count} ${what}, more than the ${limit} that a song can have.`);
  };
  most(
    'notes',
    sum((t) => t.notes.length),
    MOST_NOTES,
  );
  most(
    'events beside its notes',
    sum((t) => t.events.length),
    MOST_EVENTS,
  );
  most('tempo changes', song.tempo.length, MOST_TEMPI);
  most('meter changes', song.meter.length, MOST_METERS);
  most('markers', song.markers.length, MOST_MARKERS);
  const end = tracks.reduce((last, t) => Math.max(last, t.end * factor), 0);
  const hours = tempoOf(song).toMs(end) / 3_600_000;
  if (!(hours <= MOST_HOURS)) {
    refuse(`The file would last ${Math.round(hours)} hours; a song can last ${MOST_HOURS}.`);
  }
}
