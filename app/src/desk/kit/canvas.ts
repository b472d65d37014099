/** One canvas layer that a single function draws whole. */
export interface DrawnLayer {
  redraw(): void;
}

/**
 * Canvas layers over each other, each drawn by one function in CSS pixels: thousands of notes are one drawing, not
 * thousands of objects. A layer is drawn at most once a frame, as sharp as the screen is.
 */
export class Canvas {
  private readonly layers: { readonly element: HTMLCanvasElement; readonly drawn: DrawnLayer }[] = [];
  private width = 1;
  private height = 1;

  constructor(private readonly container: HTMLElement) {}

  layer(draw: (ctx: CanvasRenderingContext2D) => void): DrawnLayer {
    const element = document.createElement('canvas');
    element.style.cssText = 'position: absolute; inset: 0; pointer-events: none';
    this.container.append(element);
    const ctx = element.getContext('2d');
    let frame = 0;
    const paint = () => {
      frame = 0;
      if (!ctx || !element.isConnected) return;
      this.fit(element);
      const ratio = devicePixelRatio;
      ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
      draw(ctx);
    };
    const drawn = { redraw: () => void (frame ||= requestAnimationFrame(paint)) };
    this.layers.push({ element, drawn });
    drawn.redraw();
    return drawn;
  }

  /** Gives all layers another size in CSS pixels. */
  resize(width: number, height: number): void {
    this.width = width;
    this.height = height;
    for (const { drawn } of this.layers) drawn.redraw();
  }

  destroy(): void {
    for (const { element } of this.layers) element.remove();
    this.layers.splice(0);
  }

  /** A canvas is empty once its size was set: only what draws it sets it, or an empty frame would be seen before. */
  private fit(element: HTMLCanvasElement): void {
    const width = Math.round(this.width * devicePixelRatio);
    const height = Math.round(this.height * devicePixelRatio);
    if (element.width !== width) element.width = width;
    if (element.height !== height) element.height = height;
    element.style.width = `${this.width}px`;
    element.style.height = `${this.height}px`;
  }
}
