import type { Picture } from '../hand/picture';
import { Runs } from '../kit/detail';
import { clipped, faint, TEXT_FONT, type Scene } from '../kit/draw';
import { KEYS_WIDTH, RULER_HEIGHT, type Viewport } from '../kit/viewport';
import { CLOSEST } from './draw-grid';
import { notesInView } from './draw-notes';

/** Notes of other parts have this share of their colour. */
export const OTHER_PARTS = 0.55;

/** The parts of a track side by side: their borders and names; the current one stands out. */
export function drawParts(scene: Scene, all: readonly Picture[], current: Picture): void {
  const { ctx, view, colors } = scene;
  clipped(ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
    ctx.font = `11px ${TEXT_FONT}`;
    ctx.textAlign = 'left';
    ctx.textBaseline = 'top';
    for (const { part } of all) {
      const [from, to] = [view.x(part.start), view.x(part.end)];
      if (to < KEYS_WIDTH || from > view.width()) continue;
      const here = part === current.part;
      if (!here) {
        ctx.fillStyle = faint(colors.raised, 0.5);
        ctx.fillRect(from, RULER_HEIGHT, to - from, view.rollHeight());
      }
      ctx.fillStyle = here ? colors.action : colors.soft;
      for (const edge of [from, to - 1]) ctx.fillRect(Math.round(edge), RULER_HEIGHT, 1, view.rollHeight());
      clipped(ctx, Math.max(KEYS_WIDTH, from), RULER_HEIGHT, to - Math.max(KEYS_WIDTH, from), 18, () => {
        ctx.fillText(part.name, Math.max(KEYS_WIDTH, from) + 5, RULER_HEIGHT + 4);
      });
    }
  });
}

/** Lines of a part of another track: dotted, so that nobody takes them for those of the current one. */
export function drawLinesBehind({ ctx, view, colors }: Scene, { part, lines }: Picture): void {
  const from = Math.max(0, part.start, view.left());
  const to = Math.min(part.end, view.right());
  if (to <= from || lines.gapAt(from) * view.scale() < CLOSEST) return;
  ctx.strokeStyle = colors.soft;
  ctx.setLineDash([1, 5]);
  ctx.beginPath();
  for (const line of lines.between(from, to)) {
    const x = Math.round(view.x(line)) + 0.5;
    if (x < KEYS_WIDTH) continue;
    ctx.moveTo(x, RULER_HEIGHT);
    ctx.lineTo(x, RULER_HEIGHT + view.rollHeight());
  }
  ctx.stroke();
  ctx.setLineDash([]);
}

/** The notes of another track, faint and without their offsets. */
export function drawBehind(scene: Scene, picture: Picture, corrected: boolean): void {
  const { ctx, view, colors } = scene;
  clipped(ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
    ctx.fillStyle = faint(colors.soft, 0.28);
    ctx.beginPath();
    const height = Math.max(2, view.rowHeight() - 3);
    eachInView(view, picture, corrected, EVERY, (x, y, w) => ctx.rect(x, y + 1.5, Math.max(2, w - 1), height));
    ctx.fill();
  });
}

const EVERY = () => true;

type Wanted = (id: number) => boolean;

/** Adds a frame around each note that is wanted and in view. */
export function frameNotes(
  ctx: CanvasRenderingContext2D,
  view: Viewport,
  picture: Picture,
  corrected: boolean,
  wanted: Wanted,
): void {
  eachInView(view, picture, corrected, wanted, (x, y, w) => ctx.rect(x - 1, y + 0.5, w + 2, view.rowHeight() - 1));
}

/** Darkens the notes that are wanted, where they are too small for a frame. */
export function shadeNotes(
  ctx: CanvasRenderingContext2D,
  view: Viewport,
  picture: Picture,
  corrected: boolean,
  wanted: Wanted,
): void {
  const height = Math.max(2, view.rowHeight() - 1);
  const runs = new Runs((y, from, to) => ctx.fillRect(from, y + 0.5, to - from, height));
  eachInView(view, picture, corrected, wanted, (x, y, w) => runs.add(y, x, x + Math.max(2, w)));
  runs.end();
}

/** Adds a stroke through each note that is wanted and in view. */
export function strikeNotes(
  ctx: CanvasRenderingContext2D,
  view: Viewport,
  picture: Picture,
  corrected: boolean,
  wanted: Wanted,
): void {
  const height = view.rowHeight();
  eachInView(view, picture, corrected, wanted, (x, y, w) => {
    const half = Math.min(7, Math.max(4, w / 2));
    const middle = x + w / 2;
    ctx.moveTo(middle - half, y + 2);
    ctx.lineTo(middle + half, y + height - 2);
    ctx.moveTo(middle + half, y + 2);
    ctx.lineTo(middle - half, y + height - 2);
  });
}

function eachInView(
  view: Viewport,
  picture: Picture,
  corrected: boolean,
  wanted: Wanted,
  draw: (x: number, y: number, w: number) => void,
): void {
  const starts = corrected ? picture.now : picture.played;
  const ends = corrected ? picture.nowEnd : picture.playedEnd;
  const [first, behind] = notesInView(view, picture);
  const { id } = picture.treated.columns;
  const across = view.across();
  const [scale, width] = [view.scale(), view.width()];
  const rows = Array.from({ length: 128 }, (_, pitch) => view.y(pitch));
  for (let i = first; i < behind; i++) {
    if (!wanted(id[i])) continue;
    const x = across(starts[i]);
    const w = (ends[i] - starts[i]) * scale;
    if (x <= width && x + w >= KEYS_WIDTH) draw(x, rows[picture.pitch[i]], w);
  }
}
