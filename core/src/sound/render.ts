import type { Song } from '../song';
import { songEnd, tempoOf } from '../song';
import type { Performance } from '../performance';
import type { Ms } from '../time';
import { Band, type Sampler } from './band';
import { Conductor } from './conductor';
import { NO_TICKS, type MixTrack, type MsSpan, type ScoreTrack, type Ticking } from './score';
import { scoreOf } from './score-of';
import type { SoundFile } from './strips';

/** The level at which a track is as loud as its voices were made, 0 to 1. */
const UNITY = 0.8;

/** Each track's place in the mix: muted ones are silent, and those that are not solo while another one is. */
export function mixOf(song: Song): MixTrack[] {
  const solo = song.tracks.some((t) => t.solo);
  return song.tracks.map(({ id, level, pan, mute, solo: alone }) => ({
    id,
    gain: level / UNITY,
    pan,
    audible: !mute && (!solo || alone),
  }));
}

/** All that sounds of a song, one score a track that has parts. */
export function scoresOf(song: Song, performance: Performance): ScoreTrack[] {
  return song.tracks.flatMap((track, i) =>
    track.parts.length === 0 ? [] : [scoreOf(track, performance[i], tempoOf(song))],
  );
}

/** A program, or the number of a drum kit. */
export interface Sound {
  readonly program: number;
  readonly drums: boolean;
}

/** The sounds that a score asks for, each once. */
export function soundsOf(scores: readonly ScoreTrack[]): Sound[] {
  const sounds = new Map<string, Sound>();
  const add = (program: number, drums: boolean) => sounds.set(`${drums}${program}`, { program, drums });
  for (const { slots, events } of scores) {
    for (const { kind, program } of slots) if (kind !== 'plain') add(program, kind === 'drums');
    for (let i = 0; i < events.at.length; i++) {
      const slot = slots[events.slot[i]];
      if (events.status[i] === 0xc0 && slot.kind !== 'plain') add(events.first[i], slot.kind === 'drums');
    }
  }
  return [...sounds.values()];
}

export interface Rendering {
  readonly scores: readonly ScoreTrack[];
  readonly mix: readonly MixTrack[];
  readonly ticks?: Ticking;
  /** The sound files that the scores ask for, by their ids. */
  readonly files?: ReadonlyMap<string, SoundFile>;
  readonly span: MsSpan;
  /** Frames a second. */
  readonly rate: number;
}

const BLOCK = 4096;
/** What rings on after the end is waited for so long at most. */
const TAIL_SECONDS = 4;
const SILENT = 1e-4;
/** What still rings then is faded out. */
const FADE_SECONDS = 0.08;

/**
 * Sounds in a file as they are heard: the same conductor, band and sampler, as fast as it goes.
 * @param told is given the share that is done; it may throw to end it
 * @returns samples of both sides
 */
export function renderSpan(
  { scores, mix, ticks = NO_TICKS, files, span, rate }: Rendering,
  sampler: Sampler | null,
  told: (share: number) => void = () => undefined,
): readonly [Float32Array, Float32Array] {
  const band = new Band(rate, sampler);
  const conductor = new Conductor(band, rate, { leg: () => undefined, ended: () => undefined });
  for (const score of scores) {
    band.setTrack(score.id, score);
    conductor.setTrack(score.id, score);
  }
  for (const [id, file] of files ?? []) band.setFile(id, file);
  band.setMix(mix);
  for (const { id, audible } of mix) conductor.setAudible(id, audible);
  conductor.setTicks(ticks, true);
  const length = Math.ceil(((span.to - span.from) / 1000) * rate);
  const most = length + TAIL_SECONDS * rate;
  const sides = [new Float32Array(most), new Float32Array(most)] as const;
  conductor.start(span.from);
  let done = 0;
  while (done < most) {
    // The end is let ring, not cut.
    if (done >= length) conductor.finish();
    const to = Math.min(done < length ? length : most, done + BLOCK);
    const [left, right] = [sides[0].subarray(done, to), sides[1].subarray(done, to)];
    conductor.render(left, right);
    done = to;
    told(Math.min(1, done / length));
    if (done >= most) fadeOut(left, right, Math.round(FADE_SECONDS * rate));
    if (done > length && left.every((s, i) => Math.abs(s) < SILENT && Math.abs(right[i]) < SILENT)) break;
  }
  return [sides[0].subarray(0, done), sides[1].subarray(0, done)];
}

function fadeOut(left: Float32Array, right: Float32Array, frames: number): void {
  const from = Math.max(0, left.length - frames);
  for (let i = from; i < left.length; i++) {
    const gain = (left.length - 1 - i) / (left.length - from);
    left[i] *= gain;
    right[i] *= gain;
  }
}

/** The whole of a song. */
export function wholeSpan(song: Song): { from: Ms; to: Ms } {
  return { from: 0, to: tempoOf(song).toMs(songEnd(song)) };
}
