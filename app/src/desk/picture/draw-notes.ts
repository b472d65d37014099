import { Runs } from '../kit/detail';
import { clipped, faint, type Scene } from '../kit/draw';
import { firstAt } from '@early-sparrow/core/maths';
import { LEAN, leanOf, type Picture } from '../hand/picture';
import { KEYS_WIDTH, RULER_HEIGHT, type Viewport } from '../kit/viewport';

/** Below this many px a quarter note, outlines and points are too small to be read. */
export const DETAIL = 26;

export function leanColor({ colors }: Scene, lean: number): string {
  return [colors.early, colors.onLine, colors.late][lean];
}

/** Indices of the first note that can be in view, and of the first behind all that can. */
export function notesInView(view: Viewport, { own, longest, margin }: Picture): readonly [number, number] {
  return [firstAt(own, view.left() - longest - margin), firstAt(own, view.right() + margin)];
}

/** The notes in view: solid where they sound now, an outline where they were played, a tether between. */
export function drawNotes(scene: Scene, picture: Picture, corrected: boolean, ppq: number): void {
  const { view } = scene;
  clipped(scene.ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
    const detail = ppq * view.scale() >= DETAIL;
    const [from, to] = notesInView(view, picture);
    if (corrected && detail) drawOutlines(scene, picture, from, to);
    // One pass a colour: changing the fill for every note is what makes a canvas slow.
    for (const lean of [LEAN.onLine, LEAN.early, LEAN.late]) {
      if (detail) drawSolids(scene, picture, corrected, lean, from, to);
      else drawRuns(scene, picture, corrected, lean, from, to);
    }
    drawMuted(scene, picture, corrected, from, to);
    if (detail) drawExceptions(scene, picture, corrected, from, to);
  });
}

function drawSolids(scene: Scene, picture: Picture, corrected: boolean, lean: number, from: number, to: number): void {
  const { ctx, view } = scene;
  const starts = corrected ? picture.now : picture.played;
  const ends = corrected ? picture.nowEnd : picture.playedEnd;
  // A solid mark tells where the note lies on the side that is shown, not where it was on the other.
  const offsets = corrected ? picture.after : picture.before;
  const height = Math.max(2, view.rowHeight() - 3);
  const point = Math.min(6, height / 2);
  const right = view.width();
  ctx.fillStyle = leanColor(scene, lean);
  ctx.beginPath();
  const same = new Repeats();
  for (let i = from; i < to; i++) {
    if (leanOf(offsets[i]) !== lean || picture.muted[i] === 1 || (corrected && picture.silent[i] === 1)) continue;
    const x = view.x(starts[i]);
    const w = Math.max(2, (ends[i] - starts[i]) * view.scale() - 1);
    const y = view.y(picture.pitch[i]) + 1.5;
    if (x > right || x + w < KEYS_WIDTH || y > view.rollBottom() || y + height < RULER_HEIGHT) continue;
    if (same.as(x, y, w)) continue;
    addShape(ctx, x, y, w, height, lean, Math.min(point, w / 2));
  }
  ctx.fill();
}

/** The same where notes are too small to be told apart: those of a row that touch are one bar. */
function drawRuns(scene: Scene, picture: Picture, corrected: boolean, lean: number, from: number, to: number): void {
  const { ctx, view } = scene;
  const starts = corrected ? picture.now : picture.played;
  const ends = corrected ? picture.nowEnd : picture.playedEnd;
  const offsets = corrected ? picture.after : picture.before;
  const height = Math.max(2, view.rowHeight() - 3);
  const right = view.width();
  ctx.fillStyle = leanColor(scene, lean);
  const runs = new Runs((pitch, a, b) => ctx.fillRect(a, view.y(pitch) + 1.5, b - a, height));
  const across = view.across();
  const scale = view.scale();
  for (let i = from; i < to; i++) {
    if (leanOf(offsets[i]) !== lean || picture.muted[i] === 1 || (corrected && picture.silent[i] === 1)) continue;
    const x = across(starts[i]);
    const w = Math.max(2, (ends[i] - starts[i]) * scale - 1);
    if (x <= right && x + w >= KEYS_WIDTH) runs.add(picture.pitch[i], x, x + w);
  }
  runs.end();
}

/** Muted notes: an empty outline with a stroke through it. */
function drawMuted(scene: Scene, picture: Picture, corrected: boolean, from: number, to: number): void {
  const { ctx, view, colors } = scene;
  const starts = corrected ? picture.now : picture.played;
  const ends = corrected ? picture.nowEnd : picture.playedEnd;
  const height = Math.max(2, view.rowHeight() - 3);
  ctx.strokeStyle = colors.soft;
  ctx.beginPath();
  const same = new Repeats();
  for (let i = from; i < to; i++) {
    if (picture.muted[i] === 0) continue;
    const x = Math.round(view.x(starts[i])) + 0.5;
    const w = Math.round(Math.max(2, (ends[i] - starts[i]) * view.scale() - 1));
    const y = Math.round(view.y(picture.pitch[i]) + 1.5) - 0.5;
    if (same.as(x, y, w)) continue;
    ctx.rect(x, y, w, Math.round(height) + 1);
    ctx.moveTo(x, y + height / 2 + 0.5);
    ctx.lineTo(x + w, y + height / 2 + 0.5);
  }
  ctx.stroke();
}

/** Notes of one key that lie on each other are drawn once: a file may hold a million of them at one tick. */
class Repeats {
  private x = NaN;
  private y = NaN;
  private w = NaN;

  as(x: number, y: number, w: number): boolean {
    if (x === this.x && y === this.y && w === this.w) return true;
    [this.x, this.y, this.w] = [x, y, w];
    return false;
  }
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
  if (point < 2 || lean === LEAN.onLine) {
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

/** Where notes were played, hollow, in the colour and shape of that offset; a tether joins it to where they are now. */
function drawOutlines(scene: Scene, picture: Picture, from: number, to: number): void {
  const { ctx, view, colors } = scene;
  const height = Math.max(2, view.rowHeight() - 3);
  const point = Math.min(6, height / 2);
  const { played, playedEnd, now: corrected, nowEnd: correctedEnd } = picture;
  const moved = (i: number) =>
    played[i] !== corrected[i] || playedEnd[i] !== correctedEnd[i] || picture.silent[i] === 1;
  ctx.lineWidth = 1;
  for (const lean of [LEAN.onLine, LEAN.early, LEAN.late]) {
    ctx.strokeStyle = faint(leanColor(scene, lean), 0.8);
    ctx.beginPath();
    const same = new Repeats();
    for (let i = from; i < to; i++) {
      if (leanOf(picture.before[i]) !== lean || !moved(i)) continue;
      const x = Math.round(view.x(played[i])) + 0.5;
      const w = Math.round(Math.max(2, (playedEnd[i] - played[i]) * view.scale() - 1));
      const y = Math.round(view.y(picture.pitch[i]) + 1.5) - 0.5;
      if (same.as(x, y, w)) continue;
      addShape(ctx, x, y, w, Math.round(height) + 1, lean, Math.min(point, w / 2));
    }
    ctx.stroke();
  }
  ctx.strokeStyle = colors.soft;
  ctx.beginPath();
  for (let i = from; i < to; i++) {
    const x = view.x(played[i]);
    const now = view.x(corrected[i]);
    if (Math.abs(now - x) < 2 || picture.silent[i] === 1) continue;
    const y = view.y(picture.pitch[i]) + height + 3.5;
    ctx.moveTo(x, y);
    ctx.lineTo(now, y);
  }
  ctx.stroke();
}

/** A pin on notes whose place is fixed, a hollow head on those that are left as played. */
function drawExceptions(scene: Scene, picture: Picture, corrected: boolean, from: number, to: number): void {
  const { ctx, view, colors } = scene;
  const starts = corrected ? picture.now : picture.played;
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
