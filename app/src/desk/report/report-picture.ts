import type { Palette } from '../../common/theme';
import { TEXT_FONT } from '../kit/draw';

/** A chart that was drawn, with what it shows. */
export interface DrawnChart {
  readonly title: string;
  readonly canvas: HTMLCanvasElement;
}

/** Sizes in px of the page; the picture has so many of its own for each. */
export const SHARPNESS = 2;
const MARGIN = 16;
const HEADING = { size: 18, line: 32 };
const TITLE = { size: 13, line: 18 };

/** The charts of a report beside each other in one picture, under its heading, each under its title. */
export function reportPicture(heading: string, charts: readonly DrawnChart[], colors: Palette): HTMLCanvasElement {
  const picture = document.createElement('canvas');
  const ctx = picture.getContext('2d');
  if (!ctx) return picture;
  ctx.font = titleFont;
  const titles = charts.map(({ title, canvas }) => wrapped(ctx, title, canvas.width / SHARPNESS));
  const head = HEADING.line + Math.max(0, ...titles.map((lines) => lines.length)) * TITLE.line;
  const widths = charts.map(({ canvas }) => canvas.width / SHARPNESS + MARGIN);
  // Its size clears it, and what it draws with.
  picture.width = SHARPNESS * (MARGIN + widths.reduce((sum, width) => sum + width, 0));
  picture.height = SHARPNESS * (2 * MARGIN + head) + Math.max(0, ...charts.map(({ canvas }) => canvas.height));
  ctx.fillStyle = colors.paper;
  ctx.fillRect(0, 0, picture.width, picture.height);
  ctx.scale(SHARPNESS, SHARPNESS);
  ctx.textBaseline = 'top';
  ctx.fillStyle = colors.ink;
  ctx.font = `bold ${HEADING.size}px ${TEXT_FONT}`;
  ctx.fillText(heading, MARGIN, MARGIN);
  ctx.fillStyle = colors.soft;
  ctx.font = titleFont;
  let x = MARGIN;
  charts.forEach(({ canvas }, i) => {
    titles[i].forEach((line, k) => ctx.fillText(line, x, MARGIN + HEADING.line + k * TITLE.line));
    ctx.drawImage(canvas, x, MARGIN + head, canvas.width / SHARPNESS, canvas.height / SHARPNESS);
    x += widths[i];
  });
  return picture;
}

const titleFont = `${TITLE.size}px ${TEXT_FONT}`;

/** Lines no wider than so many px, parted between words. */
function wrapped(ctx: CanvasRenderingContext2D, text: string, width: number): string[] {
  const lines: string[] = [];
  for (const word of text.split(' ')) {
    const longer = lines.length > 0 ? `${lines[lines.length - 1]} ${word}` : word;
    if (lines.length > 0 && ctx.measureText(longer).width <= width) lines[lines.length - 1] = longer;
    else lines.push(word);
  }
  return lines;
}
