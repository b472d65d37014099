/** How a beat is divided: by two, by four, by three, or by all of these. */
export type Feel = 'eighths' | 'sixteenths' | 'triplets' | 'mixed';

/** How often notes start at each place of a beat, the beat itself first; the rest lies anywhere. */
export type Places = readonly (readonly [place: number, share: number])[];

/**
 * A table each: of one for all, whatever goes unused would speak against the feel that is meant, and even eighths would
 * be read as the triplets of a slower beat.
 */
export const FEELS: Record<Feel, Places> = {
  eighths: [
    [0, 0.5],
    [1 / 2, 0.32],
    [1 / 4, 0.03],
    [3 / 4, 0.03],
  ],
  sixteenths: [
    [0, 0.34],
    [1 / 2, 0.2],
    [1 / 4, 0.17],
    [3 / 4, 0.17],
  ],
  triplets: [
    [0, 0.44],
    [1 / 3, 0.19],
    [2 / 3, 0.25],
  ],
  mixed: [
    [0, 0.42],
    [1 / 2, 0.2],
    [1 / 4, 0.07],
    [3 / 4, 0.07],
    [1 / 3, 0.05],
    [2 / 3, 0.07],
  ],
};

/** What a feel costs beforehand, in nats: most playing divides by two, little by both. */
export const AGAINST: Record<Feel, number> = { eighths: 0, sixteenths: 0.5, triplets: 3, mixed: 3 };
