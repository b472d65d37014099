import { Layer } from 'konva/lib/Layer';
import { Shape } from 'konva/lib/Shape';
import { Stage } from 'konva/lib/Stage';

/** One canvas layer that a single function draws whole. */
export interface DrawnLayer {
  redraw(): void;
}

/**
 * A Konva stage whose layers are each drawn by one function: thousands of notes are one shape,
 * not thousands of them. A layer is drawn at most once a frame.
 */
export class Canvas {
  private readonly stage: Stage;

  constructor(container: HTMLDivElement) {
    this.stage = new Stage({ container, width: 1, height: 1 });
  }

  layer(draw: (ctx: CanvasRenderingContext2D) => void): DrawnLayer {
    const layer = new Layer({ listening: false });
    layer.add(new Shape({ sceneFunc: (context) => draw(context._context), perfectDrawEnabled: false }));
    this.stage.add(layer);
    return { redraw: () => void layer.batchDraw() };
  }

  resize(width: number, height: number): void {
    this.stage.size({ width, height });
  }

  destroy(): void {
    this.stage.destroy();
  }
}
