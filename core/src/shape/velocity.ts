import { counted, type Track } from '../song';
import { reshape, type Shaped } from './reshape';
import type { Taken } from './taken';

/** Makes notes louder or softer. @param by added to each velocity */
export function louder(track: Track, taken: readonly Taken[], by: number): Shaped {
  const name = `${by > 0 ? 'Raise' : 'Lower'} the velocity of ${counted(taken.length, 'note')}`;
  return reshape(name, track, taken, ({ velocity }) => ({ velocity: velocity + by }));
}

/**
 * Level and contrast of velocities: all up or down, and further from or closer to their mean.
 * @param level added to every velocity @param contrast share of the distance to the mean that is kept: 1 leaves it
 */
export function levelAndContrast(
  track: Track,
  taken: readonly Taken[],
  { level, contrast }: { readonly level: number; readonly contrast: number },
): Shaped {
  if (taken.length === 0) return null;
  const mean = taken.reduce((sum, t) => sum + t.velocity, 0) / taken.length;
  return reshape(`Change the velocity of ${counted(taken.length, 'note')}`, track, taken, ({ velocity }) => ({
    velocity: mean + (velocity - mean) * contrast + level,
  }));
}

/** Gives notes velocities one by one. @param velocities by the note's id; others stay */
export function setVelocities(track: Track, taken: readonly Taken[], velocities: ReadonlyMap<number, number>): Shaped {
  const name = `Draw the velocity of ${counted(velocities.size, 'note')}`;
  return reshape(name, track, taken, ({ note }) => {
    const velocity = velocities.get(note.id);
    return velocity === undefined ? null : { velocity };
  });
}

/** Gives notes lengths one by one. @param lengths in ticks, by the note's id; others stay */
export function setLengths(track: Track, taken: readonly Taken[], lengths: ReadonlyMap<number, number>): Shaped {
  const name = `Draw the length of ${counted(lengths.size, 'note')}`;
  return reshape(name, track, taken, ({ note }) => {
    const length = lengths.get(note.id);
    return length === undefined ? null : { length };
  });
}

/** Mutes notes, or lets them sound again. */
export function mute(track: Track, taken: readonly Taken[], muted: boolean): Shaped {
  const name = `${muted ? 'Mute' : 'Unmute'} ${counted(taken.length, 'note')}`;
  return reshape(name, track, taken, () => ({ muted }));
}
