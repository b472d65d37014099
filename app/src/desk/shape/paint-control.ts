import type { PartEvent } from '@early-sparrow/core/song';
import { Cells, DENSE } from '../kit/detail';
import { faint, type Scene } from '../kit/draw';
import { KEYS_WIDTH } from '../kit/viewport';
import { spotsBetween, type Spots } from './control-spots';

/** What a lane of events shows besides the events. */
export interface Shown {
  /** Height of a value in px. */
  readonly y: (value: number) => number;
  readonly corrected: boolean;
  /** Id of the selected note: of a take that was played note by note its own events stand out; null for none. */
  readonly note: number | null;
  /** The selected events. */
  readonly chosen: ReadonlySet<PartEvent>;
}

/** Events that belong to other notes than the selected one. */
const OTHERS = 0.35;

/** The events of one control of a part: what is held between them as an area, and the points. */
export function paintControl(scene: Scene, spots: Spots, shown: Shown): void {
  const { ctx, view, colors } = scene;
  const [first, behind] = spotsBetween(spots, view.tick(KEYS_WIDTH), view.right());
  const many = behind - first > DENSE;
  const zero = shown.y(0);
  const end = view.x(spots.part.end);
  ctx.fillStyle = faint(colors.action, 0.22);
  for (let row = first; row < behind; row++) {
    const x = view.x(spots.own[row]);
    const to = row + 1 < spots.count ? view.x(spots.own[row + 1]) : Math.max(x, end);
    // What is held for less than a quarter of a pixel cannot be seen.
    if (spots.value[row] === 0 || (many && to - x < 0.25)) continue;
    const y = shown.y(spots.value[row]);
    ctx.fillRect(x, Math.min(y, zero), to - x, Math.abs(zero - y));
  }
  const draw = many ? drawManyPoints : drawPoints;
  draw(scene, spots, shown, [first, behind]);
  if (shown.chosen.size > 0) ringChosen(scene, spots, shown, [first, behind]);
}

function drawPoints(
  { ctx, view, colors }: Scene,
  spots: Spots,
  shown: Shown,
  [first, behind]: readonly [number, number],
): void {
  const { own, played, now, value } = spots;
  const isOwn = ownedBy(spots, shown.note);
  const alpha = ctx.globalAlpha;
  ctx.fillStyle = colors.action;
  ctx.strokeStyle = colors.action;
  for (let row = first; row < behind; row++) {
    const y = shown.y(value[row]);
    ctx.globalAlpha = isOwn(row) ? alpha : alpha * OTHERS;
    ctx.beginPath();
    ctx.arc(view.x(own[row]), y, 3.5, 0, 2 * Math.PI);
    ctx.fill();
    if (!shown.corrected || played[row] === now[row]) continue;
    ctx.beginPath();
    ctx.arc(view.x(played[row]), y, 3.5, 0, 2 * Math.PI);
    ctx.stroke();
  }
  ctx.globalAlpha = alpha;
}

/** The same where several points stand in a pixel. */
function drawManyPoints(
  { ctx, view, colors }: Scene,
  spots: Spots,
  shown: Shown,
  [first, behind]: readonly [number, number],
): void {
  const isOwn = ownedBy(spots, shown.note);
  const [mine, others] = [new Cells(view.width(), view.height()), new Cells(view.width(), view.height())];
  for (let row = first; row < behind; row++) {
    (isOwn(row) ? mine : others).first(view.x(spots.own[row]), shown.y(spots.value[row]));
  }
  const alpha = ctx.globalAlpha;
  ctx.fillStyle = colors.action;
  mine.bars((x, y, w, h) => ctx.fillRect(x, y, w, h));
  ctx.globalAlpha = alpha * OTHERS;
  others.bars((x, y, w, h) => ctx.fillRect(x, y, w, h));
  ctx.globalAlpha = alpha;
}

function ringChosen(
  { ctx, view, colors }: Scene,
  { part, index, own, value }: Spots,
  { y, chosen }: Shown,
  [first, behind]: readonly [number, number],
): void {
  ctx.strokeStyle = colors.ink;
  ctx.lineWidth = 1.5;
  ctx.beginPath();
  for (let row = first; row < behind; row++) {
    if (!chosen.has(part.events[index[row]])) continue;
    const at = { x: view.x(own[row]), y: y(value[row]) };
    ctx.moveTo(at.x + 6, at.y);
    ctx.arc(at.x, at.y, 6, 0, 2 * Math.PI);
  }
  ctx.stroke();
  ctx.lineWidth = 1;
}

/** Tells which rows belong to a note; all do where none is selected, or the part was not played note by note. */
function ownedBy({ part, owner }: Spots, note: number | null): (row: number) => boolean {
  const index = owner && note !== null ? part.notes.findIndex((n) => n.id === note) : -1;
  return owner && index >= 0 ? (row) => owner[row] === index : () => true;
}
