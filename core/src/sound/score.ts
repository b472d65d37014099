import type { VoiceKind } from '../song';
import type { Ms } from '../time';
import type { Strip } from './strips';

/** What one MIDI channel of a track sounds with. */
export interface Slot {
  /** MIDI channel, 0 to 15. */
  readonly channel: number;
  readonly kind: VoiceKind;
  /** General MIDI program, 0 to 127; of drums the number of the kit. */
  readonly program: number;
}

/**
 * A track as it sounds, in columns, so that it goes to the audio thread at once. Times in ms from the song's start.
 * It says what sounds and when; how loud the track is and where it stands is told apart.
 */
export interface ScoreTrack {
  /** Id of the track in its song. */
  readonly id: string;
  readonly slots: readonly Slot[];
  readonly notes: ScoreNotes;
  readonly events: ScoreEvents;
  /** Sound files that it plays along. */
  readonly strips: readonly Strip[];
}

/** Notes in order of their starts. */
export interface ScoreNotes {
  readonly id: Float64Array;
  readonly start: Float64Array;
  /** Where the key is let go; pedals are among the events. */
  readonly end: Float64Array;
  readonly pitch: Uint8Array;
  readonly velocity: Uint8Array;
  /** Index of the slot. */
  readonly slot: Uint8Array;
}

/** Channel messages beside the notes, in order of time. */
export interface ScoreEvents {
  readonly at: Float64Array;
  readonly slot: Uint8Array;
  /** Status byte without its channel: 0xA0 key pressure, 0xB0 controller, 0xC0 program, 0xD0 pressure, 0xE0 bend. */
  readonly status: Uint8Array;
  readonly first: Uint8Array;
  readonly second: Uint8Array;
}

/** A track's place in the mix. */
export interface MixTrack {
  readonly id: string;
  /** Loudness as a factor. */
  readonly gain: number;
  /** −1 left, 1 right. */
  readonly pan: number;
  readonly audible: boolean;
}

/** Kinds of ticks, the strongest first. */
export const TICKS = ['bar', 'beat', 'part', 'line'] as const;
/** `bar` and `beat` are the click's, `part` divides a beat, `line` marks where a note was meant. */
export type TickKind = (typeof TICKS)[number];

/** Ticks in order of time. */
export interface Ticking {
  readonly at: Float64Array;
  /** Index in {@link TICKS}. */
  readonly kind: Uint8Array;
}

export const NO_TICKS: Ticking = { at: new Float64Array(0), kind: new Uint8Array(0) };

/** A stretch of the song in ms. */
export interface MsSpan {
  readonly from: Ms;
  readonly to: Ms;
}
