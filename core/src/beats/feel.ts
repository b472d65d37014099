/** How a beat is divided: by twos, by threes, or by both. */
export type Feel = 'binary' | 'ternary' | 'mixed';

/** How often notes start at each place of a beat, the beat itself first; the rest lies anywhere. */
export type Places = readonly (readonly [place: number, share: number])[];

export const FEELS: Record<Feel, Places> = {
  binary: [
    [0, 0.45],
    [1 / 2, 0.25],
    [1 / 4, 0.09],
    [3 / 4, 0.09],
  ],
  ternary: [
    [0, 0.46],
    [1 / 3, 0.17],
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
export const AGAINST: Record<Feel, number> = { binary: 0, ternary: 1.5, mixed: 3 };
