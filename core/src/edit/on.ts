import { findPart, findTrack, withPart, withTrack, type Part, type Song, type Track } from '../song';
import { isProblem, problem, type Changed, type EditProblem } from './kind';

/** Changes one part, and gives what takes that back. */
export function onPart<E>(
  song: Song,
  id: string,
  change: (part: Part, track: Track) => { part: Part; inverse: E } | EditProblem,
): Changed<E> | EditProblem {
  const found = findPart(song, id);
  if (!found) return problem(`The song has no part ${id} any more.`);
  const done = change(found.part, found.track);
  return isProblem(done) ? done : { song: withPart(song, id, () => done.part), inverse: done.inverse };
}

/** Changes one track, and gives what takes that back. */
export function onTrack<E>(
  song: Song,
  id: string,
  change: (track: Track) => { track: Track; inverse: E } | EditProblem,
): Changed<E> | EditProblem {
  const found = findTrack(song, id);
  if (!found) return problem(`The song has no track ${id} any more.`);
  const done = change(found);
  return isProblem(done) ? done : { song: withTrack(song, id, () => done.track), inverse: done.inverse };
}
