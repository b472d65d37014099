/** How a beat is divided: by two, by four, by three, or by all of these. */
export type Feel = 'eighths' | 'sixteenths' | 'triplets' | 'mixed';

/** How often notes start at each place of a beat, in time order, the beat itself first; the rest lies anywhere. */
export type Places = readonly (readonly [place: number, share: number])[];

/**
 * A table each: of one for all, whatever goes unused would speak against the feel that is meant, and even eighths would
 * be read as the triplets of a slower beat. A short note leads to the beat more often than it comes after it (common
 * practice; dotted rhythms, upbeats).
 */
export const FEELS: Record<Feel, Places> = {
  eighths: [
    [0, 0.5],
    [1 / 4, 0.02],
    [1 / 2, 0.32],
    [3 / 4, 0.04],
  ],
  sixteenths: [
    [0, 0.34],
    [1 / 4, 0.14],
    [1 / 2, 0.2],
    [3 / 4, 0.2],
  ],
  triplets: [
    [0, 0.44],
    [1 / 3, 0.19],
    [2 / 3, 0.25],
  ],
  mixed: [
    [0, 0.42],
    [1 / 4, 0.06],
    [1 / 3, 0.05],
    [1 / 2, 0.2],
    [2 / 3, 0.07],
    [3 / 4, 0.08],
  ],
};

/** Where in a beat of a feel the true beat could be instead, the beat itself first. */
export const TURNS: Record<Feel, readonly number[]> = {
  eighths: [0, 1 / 2],
  sixteenths: [0, 1 / 4, 1 / 2, 3 / 4],
  triplets: [0, 1 / 3, 2 / 3],
  mixed: [0, 1 / 2],
};

/** What a feel costs beforehand, in nats: most playing divides by two, little by both. */
export const AGAINST: Record<Feel, number> = { eighths: 0, sixteenths: 0.5, triplets: 3, mixed: 3 };

/** What stands out is so much likelier on a beat where cues tell it: e to this power for each standard deviation. */
export const TILT = 1.4;

/** That cues tell the beat has to be earned, in nats. */
export const AGAINST_CUES = 3;

/**
 * How much later the off-beats of a feel may lie, as shares of a beat, straight first: eighths to 67 %, sixteenths to
 * 70 %. Where they lie just so is found from the playing.
 */
export const SWINGS: Record<Feel, readonly number[]> = {
  eighths: [0, 0.06, 0.11, 0.16],
  sixteenths: [0, 0.04, 0.07, 0.1],
  triplets: [0],
  mixed: [0],
};

/** The places of a feel with its off-beats later by a share of a beat. */
export function swungPlaces(feel: Feel, later: number): Places {
  return FEELS[feel].map(([place, share]) => [isOff(feel, place) ? place + later : place, share]);
}

/** Whether a place is what swing moves. */
export function isOff(feel: Feel, place: number): boolean {
  return feel === 'eighths' ? place === 1 / 2 : feel === 'sixteenths' && place % (1 / 2) !== 0;
}
