import { newSong, newTrack, type Song, type TrackSound } from '../song';
import { isProblem, problem, type EditProblem } from './kind';
import { applyEdit } from './edit';
import { placeMeter, placeTempo } from './time-edits';

/** The first track of a new song. */
export type FirstTrack = Pick<TrackSound, 'voice' | 'program'> & { readonly name: string };

/** A song with an empty track in a tempo and a meter; a problem where those make no sense. */
export function newSongWith(
  name: string,
  of: {
    readonly bpm: number;
    readonly numerator: number;
    readonly denominator: number;
    readonly track: FirstTrack;
  },
): Song | EditProblem {
  const { name: trackName, ...sound } = of.track;
  let song: Song = { ...newSong(name), tracks: [newTrack('t0', trackName, sound)], nextId: 1 };
  for (const edit of [placeTempo(song, 0, of.bpm, 'bars'), placeMeter(song, 0, of.numerator, of.denominator)]) {
    if (edit === null) return problem('A song needs a tempo and a meter.');
    if (isProblem(edit)) return edit;
    const done = applyEdit(song, edit);
    if (isProblem(done)) return done;
    ({ song } = done);
  }
  return song;
}
