import type { Quantize } from './treatment';

/**
 * Finds the lines that follow a player, or says null while it does not know them yet. What it says depends on what it is
 * given and on nothing else; once it knows more, another follower takes its place.
 * @param place chords' places, ascending; the same array for the same chords
 */
export type Follower = (place: Float64Array, settings: FollowSettings) => FollowedLines | null;

/** A song in which lines that follow a player are found by a follower. Edits start from the song without one. */
export function followedBy<S extends object>(song: S, follower: Follower): S & { readonly follower: Follower } {
  return { ...song, follower };
}

/** What the lines are made from. */
export type FollowSettings = Pick<Quantize, 'grid' | 'groove'> & {
  /** Chords of the track that the lines go by; null without one. */
  readonly reference: Float64Array | null;
  /** Whether the player's lag was taken away: then the middle of the playing lies near its lines. */
  readonly lagTaken?: boolean;
};

/** The lines of a part's chords in ticks, and where the player's time was at each, in ms. */
export interface FollowedLines {
  readonly line: Float64Array;
  readonly drift: Float64Array;
}
