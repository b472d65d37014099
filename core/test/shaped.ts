import { isProblem } from '@early-sparrow/core/edit';
import type { Shaped } from '@early-sparrow/core/shape';
import type { Song } from '@early-sparrow/core/song';
import { applied } from './build';

/** The song after a shaping that must fit; itself where there is nothing to do. */
export function after(s: Song, shaped: Shaped): Song {
  if (shaped === null) return s;
  if (isProblem(shaped)) throw new Error(shaped.problem);
  return applied(s, shaped).song;
}
