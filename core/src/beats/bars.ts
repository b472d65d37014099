/** Where bars begin among beats. */
export interface Bars {
  /** Index of the beat that the first whole bar begins with. */
  readonly downbeat: number;
  /** Beats a bar. */
  readonly perBar: number;
  /** Indices of later beats with which a bar begins anew, ascending: after a fermata the bar before them may be shorter. */
  readonly anew?: readonly number[];
}

/** A beat's bar, from 1, and its place in it, from 0; before the first whole bar the bars count down to 0 and below. */
export function placeInBars({ downbeat, perBar, anew = [] }: Bars, index: number): { bar: number; beat: number } {
  let [origin, bars] = [downbeat, 0];
  for (const at of anew) {
    if (at <= origin || at > index) continue;
    bars += Math.ceil((at - origin) / perBar);
    origin = at;
  }
  const since = index - origin;
  return { bar: bars + Math.floor(since / perBar) + 1, beat: ((since % perBar) + perBar) % perBar };
}
