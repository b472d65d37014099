import type { MidiBytes } from '@early-sparrow/core/record';
import type { Leg, MixTrack, MsSpan, ScoreTrack, SoundFile, Ticking, When } from '@early-sparrow/core/sound';

/** What is said to the engine. Times in ms of the song. */
export type ToEngine =
  | { readonly say: 'track'; readonly id: string; readonly score: ScoreTrack | null }
  | { readonly say: 'mix'; readonly tracks: readonly MixTrack[] }
  | { readonly say: 'ticks'; readonly ticks: Ticking; readonly on: boolean; readonly gain: number }
  | { readonly say: 'loop'; readonly loop: MsSpan | null }
  | { readonly say: 'end'; readonly end: number | null }
  | { readonly say: 'rate'; readonly rate: number }
  | { readonly say: 'start'; readonly from: number; readonly lead: Ticking }
  | { readonly say: 'stop' }
  /** Something that is played in now, to be heard at once. */
  | { readonly say: 'live'; readonly track: string; readonly bytes: MidiBytes }
  /** A sound of the bank. */
  | {
      readonly say: 'sound';
      readonly program: number;
      readonly drums: boolean;
      readonly bytes: ArrayBuffer;
    }
  /** A sound file that tracks play along; null lets it go. */
  | { readonly say: 'file'; readonly id: string; readonly file: SoundFile | null }
  /** Another bank is in use: those that came before are none of its. */
  | { readonly say: 'no-sounds' }
  /** Tells each note that is struck, for measuring. */
  | { readonly say: 'watch' };

/** What the engine tells. Frames are those of the device. */
export type FromEngine =
  | { readonly tell: 'leg'; readonly leg: Leg }
  | { readonly tell: 'ended' }
  /** How many notes were struck since the last time, and how many of them late although they were known in time. */
  | { readonly tell: 'struck'; readonly notes: number; readonly late: number }
  | { readonly tell: 'watched'; readonly struck: readonly Struck[] };

export interface Struck {
  readonly track: string;
  readonly id: number;
  readonly frame: number;
  readonly when: When;
}
