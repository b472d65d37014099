/**
 * For each bin of a circle the cheapest way to it from any other, where a move costs by its square: a distance transform
 * in linear time (Felzenszwalb & Huttenlocher 2012, Theory of Computing 8:19), over the circle laid out three times.
 */
export class CircularEnvelope {
  private readonly value: Float64Array;
  private readonly side: Uint8Array;
  private readonly at: Int32Array;
  private readonly until: Float64Array;
  /** Cost of the cheapest way to each bin. */
  readonly cost: Float64Array;
  /** Twice the move that it makes, and one more where it comes from the far line. */
  readonly move: Int32Array;

  constructor(private readonly bins: number) {
    this.value = new Float64Array(bins);
    this.side = new Uint8Array(bins);
    this.at = new Int32Array(3 * bins);
    this.until = new Float64Array(3 * bins + 1);
    this.cost = new Float64Array(bins);
    this.move = new Int32Array(bins);
  }

  /** @param cost of the near line at each bin, then of the far one @param slope of a move of one bin */
  from(cost: Float64Array, slope: number): this {
    const { bins, value, side, at, until } = this;
    for (let j = 0; j < bins; j++) {
      side[j] = cost[j + bins] < cost[j] ? 1 : 0;
      value[j] = side[j] === 1 ? cost[j + bins] : cost[j];
    }
    let k = 0;
    at[0] = 0;
    until[0] = -Infinity;
    until[1] = Infinity;
    for (let q = 1; q < 3 * bins; q++) {
      const own = value[q % bins] / slope + q * q;
      let meets = (own - (value[at[k] % bins] / slope + at[k] ** 2)) / (2 * (q - at[k]));
      while (meets <= until[k]) {
        k--;
        meets = (own - (value[at[k] % bins] / slope + at[k] ** 2)) / (2 * (q - at[k]));
      }
      at[++k] = q;
      until[k] = meets;
      until[k + 1] = Infinity;
    }
    k = 0;
    for (let j = 0; j < bins; j++) {
      const q = bins + j;
      while (until[k + 1] < q) k++;
      const d = q - at[k];
      const source = at[k] % bins;
      this.cost[j] = value[source] + d * d * slope;
      this.move[j] = d * 2 + side[source];
    }
    return this;
  }
}
