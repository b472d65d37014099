import type { ScoreTrack } from '@early-sparrow/core/sound';

/** A note of a score that is written by hand; times in ms. */
export interface PlainNote {
  readonly id: number;
  readonly start: number;
  readonly end: number;
  readonly pitch?: number;
}

/** A track of one channel. @param events time, status and two data bytes */
export function score(
  notes: readonly PlainNote[],
  events: readonly (readonly [number, number, number, number])[] = [],
): ScoreTrack {
  const sorted = [...notes].sort((a, b) => a.start - b.start);
  return {
    id: 't',
    slots: [{ channel: 0, kind: 'keys', program: 0 }],
    notes: {
      id: Float64Array.from(sorted, (n) => n.id),
      start: Float64Array.from(sorted, (n) => n.start),
      end: Float64Array.from(sorted, (n) => n.end),
      pitch: Uint8Array.from(sorted, (n) => n.pitch ?? 40 + n.id),
      velocity: new Uint8Array(sorted.length).fill(80),
      slot: new Uint8Array(sorted.length),
    },
    events: {
      at: Float64Array.from(events, (e) => e[0]),
      slot: new Uint8Array(events.length),
      status: Uint8Array.from(events, (e) => e[1]),
      first: Uint8Array.from(events, (e) => e[2]),
      second: Uint8Array.from(events, (e) => e[3]),
    },
    strips: [],
  };
}
