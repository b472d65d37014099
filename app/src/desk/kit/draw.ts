import type { Palette } from '../../common/theme';
import { KEYS_WIDTH, type Viewport } from './viewport';

/** What every drawing function needs. */
export interface Scene {
  readonly ctx: CanvasRenderingContext2D;
  readonly view: Viewport;
  readonly colors: Palette;
}

export const NUMBER_FONT = "'Atkinson Hyperlegible Mono', monospace";
export const TEXT_FONT = "'Atkinson Hyperlegible Next', sans-serif";

/** Draws inside a rectangle only. */
export function clipped(
  ctx: CanvasRenderingContext2D,
  x: number,
  y: number,
  w: number,
  h: number,
  draw: () => void,
): void {
  ctx.save();
  ctx.beginPath();
  ctx.rect(x, y, w, h);
  ctx.clip();
  draw();
  ctx.restore();
}

/** A word beside the picture, in the colour that is set. @param y its middle */
export function sideLabel(ctx: CanvasRenderingContext2D, text: string, y: number): void {
  ctx.font = `11px ${TEXT_FONT}`;
  ctx.textAlign = 'right';
  ctx.textBaseline = 'middle';
  ctx.fillText(text, KEYS_WIDTH - 6, y);
}

/** A colour with part of its strength. */
export function faint(color: string, share: number): string {
  return `color-mix(in srgb, ${color} ${Math.round(share * 100)}%, transparent)`;
}
