import { clipped, faint, type Scene } from './draw';
import { firstAt, LEAN, MOVE_MARGIN, type Picture } from './picture';
import { KEYS_WIDTH, RULER_HEIGHT } from './viewport';

/** Below this many px a quarter note, outlines and points are too small to be read. */
const DETAIL = 26;

export function leanColor({ colors }: Scene, lean: number): string {
  return [colors.early, colors.onLine, colors.late, colors.soft][lean];
}

/** The notes in view: solid where they sound now, an outline where they were played, a tether between. */
export function drawNotes(scene: Scene, picture: Picture, corrected: boolean, ppq: number): void {
  const { view } = scene;
  clipped(scene.ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
    const detail = ppq * view.scale() >= DETAIL;
    const from = firstAt(picture.played, view.left() - picture.longest - MOVE_MARGIN);
    const to = firstAt(picture.played, view.right() + MOVE_MARGIN);
    if (corrected && detail) drawOutlines(scene, picture, from, to);
    // One pass a colour: changing the fill for every note is what makes a canvas slow.
    for (const lean of [LEAN.none, LEAN.onLine, LEAN.early, LEAN.late]) {
      drawSolids(scene, picture, corrected, lean, from, to, detail);
    }
    if (detail) drawExceptions(scene, picture, corrected, from, to);
  });
}

function drawSolids(
  scene: Scene,
  picture: Picture,
  corrected: boolean,
  lean: number,
  from: number,
  to: number,
  detail: boolean,
): void {
  const { ctx, view } = scene;
  const starts = corrected ? picture.corrected : picture.played;
  const ends = corrected ? picture.correctedEnd : picture.playedEnd;
  const height = Math.max(2, view.rowHeight() - 3);
  const point = detail ? Math.min(6, height / 2) : 0;
  const right = view.width();
  ctx.fillStyle = leanColor(scene, lean);
  ctx.beginPath();
  for (let i = from; i < to; i++) {
    if (picture.lean[i] !== lean) continue;
    const x = view.x(starts[i]);
    const w = Math.max(2, (ends[i] - starts[i]) * view.scale() - 1);
    const y = view.y(picture.pitch[i]) + 1.5;
    if (x > right || x + w < KEYS_WIDTH || y > view.laneTop() || y + height < RULER_HEIGHT) continue;
    addShape(ctx, x, y, w, height, lean, Math.min(point, w / 2));
  }
  ctx.fill();
}

/** A bar with a point at the left when early, at the right when late: the colour never says it alone. */
function addShape(
  ctx: CanvasRenderingContext2D,
  x: number,
  y: number,
  w: number,
  h: number,
  lean: number,
  point: number,
): void {
  if (point < 2 || lean === LEAN.onLine || lean === LEAN.none) {
    ctx.rect(x, y, w, h);
    return;
  }
  const middle = y + h / 2;
  if (lean === LEAN.early) {
    ctx.moveTo(x, middle);
    ctx.lineTo(x + point, y);
    ctx.lineTo(x + w, y);
    ctx.lineTo(x + w, y + h);
    ctx.lineTo(x + point, y + h);
  } else {
    ctx.moveTo(x, y);
    ctx.lineTo(x + w - point, y);
    ctx.lineTo(x + w, middle);
    ctx.lineTo(x + w - point, y + h);
    ctx.lineTo(x, y + h);
  }
  ctx.closePath();
}

function drawOutlines(scene: Scene, picture: Picture, from: number, to: number): void {
  const { ctx, view, colors } = scene;
  const height = Math.max(2, view.rowHeight() - 3);
  ctx.strokeStyle = colors.soft;
  ctx.lineWidth = 1;
  ctx.beginPath();
  for (let i = from; i < to; i++) {
    const same = picture.played[i] === picture.corrected[i] && picture.playedEnd[i] === picture.correctedEnd[i];
    if (same) continue;
    const x = view.x(picture.played[i]);
    const w = Math.max(2, (picture.playedEnd[i] - picture.played[i]) * view.scale() - 1);
    const y = view.y(picture.pitch[i]) + 1.5;
    ctx.rect(Math.round(x) + 0.5, Math.round(y) - 0.5, Math.round(w), Math.round(height) + 1);
    const moved = view.x(picture.corrected[i]);
    if (Math.abs(moved - x) < 2) continue;
    ctx.moveTo(x, y + height + 2);
    ctx.lineTo(moved, y + height + 2);
  }
  ctx.stroke();
  ctx.strokeStyle = faint(colors.soft, 0.5);
}

/** A pin on notes whose place is fixed, a hollow head on those that are left as played. */
function drawExceptions(scene: Scene, picture: Picture, corrected: boolean, from: number, to: number): void {
  const { ctx, view, colors } = scene;
  const starts = corrected ? picture.corrected : picture.played;
  const middle = view.rowHeight() / 2;
  for (let i = from; i < to; i++) {
    const kind = picture.part.notes[i].exception?.kind;
    if (kind !== 'pinned' && kind !== 'as-played') continue;
    const x = view.x(starts[i]);
    const y = view.y(picture.pitch[i]);
    ctx.beginPath();
    if (kind === 'as-played') {
      ctx.arc(x + middle, y + middle, Math.max(2, middle - 4), 0, 2 * Math.PI);
      ctx.fillStyle = colors.paper;
      ctx.fill();
      continue;
    }
    ctx.strokeStyle = colors.ink;
    ctx.fillStyle = colors.ink;
    ctx.moveTo(x + 1, y + 2);
    ctx.lineTo(x + 1, y - 5);
    ctx.stroke();
    ctx.beginPath();
    ctx.arc(x + 1, y - 6, 3, 0, 2 * Math.PI);
    ctx.fill();
  }
}
