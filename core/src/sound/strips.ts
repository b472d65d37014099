import { fileAt, tickOfFile, type Part, type Track } from '../song';
import { addAmount, pieceAt, type Ms, type TempoMap } from '../time';

/** A sound file where it sounds in the song: between two of its points it runs evenly, outside it is silent. */
export interface Strip {
  /** Id of the file. */
  readonly file: string;
  /** Times of the song, ascending. */
  readonly at: Float64Array;
  /** The file's own times there. */
  readonly from: Float64Array;
}

/** The sound files of a track that are to be heard: each within its part. */
export function stripsOf(track: Track, tempo: TempoMap): Strip[] {
  return track.parts.flatMap((part) => stripOf(part, (tick) => addAmount(tick, track.delay, tempo), tempo) ?? []);
}

function stripOf({ audio, muted, start, end }: Part, delayed: (tick: number) => number, tempo: TempoMap): Strip | null {
  if (!audio || muted || audio.heard === 'notes') return null;
  const { anchors } = audio;
  const from = Math.max(start, anchors[0].tick, tickOfFile(audio, 0));
  const to = Math.min(end, anchors[anchors.length - 1].tick, tickOfFile(audio, audio.ms));
  if (to <= from) return null;
  const inside = (tick: number) => tick > from && tick < to;
  const bends = [...anchors.map((a) => a.tick), ...tempo.ticks].filter(inside);
  const ticks = [...new Set([from, ...bends.sort((a, b) => a - b), to])];
  return {
    file: audio.file,
    at: Float64Array.from(ticks, (tick) => tempo.toMs(delayed(tick))),
    from: Float64Array.from(ticks, (tick) => fileAt(audio, tick)),
  };
}

/** A file's sound, both sides, as samples from −1 to 1. */
export interface SoundFile {
  readonly left: Float32Array;
  readonly right: Float32Array;
  /** Samples a second. */
  readonly rate: number;
}

/** The files that scores ask for, each once. */
export function filesOf(scores: readonly { readonly strips: readonly Strip[] }[]): string[] {
  return [...new Set(scores.flatMap((s) => s.strips.map(({ file }) => file)))];
}

/** Where a strip's file is at a time of the song. */
export interface StripPlace {
  /** Time of the file. */
  readonly file: Ms;
  /** File time for each ms of the song from here on, until `until`. */
  readonly speed: number;
  readonly until: Ms;
}

/** Null where the strip is silent. */
export function placeIn({ at, from }: Strip, ms: Ms): StripPlace | null {
  const last = at.length - 1;
  if (ms < at[0] || ms >= at[last]) return null;
  const k = pieceAt(at, ms);
  const speed = (from[k + 1] - from[k]) / (at[k + 1] - at[k]);
  return { file: from[k] + (ms - at[k]) * speed, speed, until: at[k + 1] };
}
