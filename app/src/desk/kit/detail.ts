/** From so many marks in view on they are drawn as plain squares: a path of thousands of circles takes a frame. */
export const DENSE = 1000;

/** Marks in the same cell of so many px are one: nobody could tell them apart. */
const CELL = 2;

/** Which small cells of a picture have a mark already: many notes a pixel are drawn once. Column by column. */
export class Cells {
  private readonly columns: number;
  private readonly rows: number;
  private readonly taken: Uint8Array;
  /** The rows that have any mark lie from the one to before the other. */
  private top = Infinity;
  private bottom = 0;

  /** @param width of what is drawn, in px @param height likewise */
  constructor(width: number, height: number) {
    this.columns = Math.ceil(width / CELL) + 1;
    this.rows = Math.ceil(height / CELL) + 1;
    this.taken = new Uint8Array(this.columns * this.rows);
  }

  /** Whether a place is the first in its cell; from then on it is not. Places outside are none. */
  first(x: number, y: number): boolean {
    const [column, row] = [Math.floor(x / CELL), Math.floor(y / CELL)];
    if (column < 0 || column >= this.columns || row < 0 || row >= this.rows) return false;
    const at = column * this.rows + row;
    if (this.taken[at] === 1) return false;
    this.taken[at] = 1;
    if (row < this.top) this.top = row;
    if (row >= this.bottom) this.bottom = row + 1;
    return true;
  }

  /** Gives the cells that have a mark as upright bars, each as tall as there are such cells below each other; in px. */
  bars(draw: (x: number, y: number, width: number, height: number) => void): void {
    const { taken, rows, top, bottom } = this;
    for (let column = 0; column < this.columns; column++) {
      const end = column * rows + bottom;
      for (let at = column * rows + top; at < end; at++) {
        if (taken[at] === 0) continue;
        const from = at;
        while (at < end && taken[at] === 1) at++;
        draw(column * CELL, (from - column * rows) * CELL, CELL, (at - from) * CELL);
      }
    }
  }
}

/** The topmost mark of each column of a picture: what stands below it is one bar. */
export class Tops {
  private readonly top: Float32Array;

  constructor(width: number) {
    this.top = new Float32Array(Math.ceil(width / CELL) + 1).fill(Infinity);
  }

  add(x: number, y: number): void {
    const column = Math.floor(x / CELL);
    if (y < this.top[column]) this.top[column] = y;
  }

  /** Gives each column that has a mark, with the height of the topmost one; in px. */
  each(draw: (x: number, y: number) => void): void {
    this.top.forEach((y, column) => {
      if (y < Infinity) draw(column * CELL, y);
    });
  }
}

/** Bars of rows that touch, put together while they come from left to right: each stretch without a gap is one bar. */
export class Runs {
  private readonly open = new Map<number, { from: number; to: number }>();

  /** @param put draws a bar: its row, its left and its right edge */
  constructor(private readonly put: (row: number, from: number, to: number) => void) {}

  add(row: number, from: number, to: number): void {
    const run = this.open.get(row);
    if (!run) {
      this.open.set(row, { from, to });
      return;
    }
    if (from <= run.to + 0.75) {
      if (to > run.to) run.to = to;
      return;
    }
    this.put(row, run.from, run.to);
    run.from = from;
    run.to = to;
  }

  /** Draws what is open still. */
  end(): void {
    for (const [row, { from, to }] of this.open) this.put(row, from, to);
    this.open.clear();
  }
}
