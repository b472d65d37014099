import type { Treatment } from '@early-sparrow/core/song';
import type { ChordFacts } from '@early-sparrow/core/treatment';
import { Cells, DENSE } from '../kit/detail';
import { clipped, faint, NUMBER_FONT, TEXT_FONT, type Scene } from '../kit/draw';
import type { Frame } from '../kit/frame';
import { leanColor } from './draw-notes';
import { firstAt, inBlocks } from '@early-sparrow/core/maths';
import { LEAN, leanOf, type Picture } from '../hand/picture';
import { KEYS_WIDTH } from '../kit/viewport';

/** The lane's head: its name, and what leans throughout. In px. */
export const LANE_HEAD = 22;
const HISTOGRAM_WIDTH = 56;

/** Largest offset that the lane shows, in ms: rounded up so that nearly all chords are inside. */
export function laneReach(picture: Picture): number {
  const wanted = Math.max(20, picture.wideMs * 1.25);
  return [20, 30, 40, 60, 80, 120, 200, 400].find((r) => r >= wanted) ?? 400;
}

/** From one number of the scale to the next, in px at least. */
const LABEL = 14;

/** Id of the lane of offsets. */
export const OFFSET = 'offset';

/** The lane's middle, and how far its scale goes from there, in px. */
function laneScale({ top, height }: Frame): { middle: number; half: number } {
  const room = height - LANE_HEAD;
  return { middle: top + LANE_HEAD + room / 2, half: room / 2 - 11 };
}

/** Height of an offset in the lane: early above the line, late below it. */
export function laneY(frame: Frame, picture: Picture, ms: number): number {
  return heightsIn(frame, picture)(ms);
}

/** The same for many offsets. */
function heightsIn(frame: Frame, picture: Picture): (ms: number) => number {
  const { middle, half } = laneScale(frame);
  const reach = laneReach(picture);
  return (ms) => middle + Math.max(-1, Math.min(1, ms / reach)) * half;
}

/** The offset in ms at a height in the lane; the inverse of {@link laneY}, and beyond its ends too. */
export function laneMs(frame: Frame, picture: Picture, y: number): number {
  const { middle, half } = laneScale(frame);
  return ((y - middle) / half) * laneReach(picture);
}

/** The offset lane: a mark for each chord, hollow as played and solid as corrected, and their histogram. */
export function drawLane(scene: Scene, frame: Frame, picture: Picture, corrected: boolean, bands: Bands): void {
  const { ctx, view, colors } = scene;
  const { top, height } = frame;
  const lane: InLane = { ...scene, frame };
  ctx.fillStyle = faint(colors.raised, 0.5);
  ctx.fillRect(0, top + 1, view.width(), height);
  drawScale(lane, picture);
  clipped(ctx, KEYS_WIDTH, top, view.notesWidth(), height, () => {
    drawBands(lane, picture, bands);
    const visible = chordsInView(view, picture);
    if (!drawDrift(lane, picture, visible)) drawMedian(lane, picture, corrected);
    if (corrected) drawStems(lane, picture, visible);
    drawMarks(lane, picture, visible, 'played', corrected);
    if (corrected) drawMarks(lane, picture, visible, 'corrected', false);
    drawHistogram(lane, picture, corrected);
  });
}

/** What drawing in the lane needs. */
interface InLane extends Scene {
  readonly frame: Frame;
}

/** The chords whose marks can be in view, played or corrected: from one index up to another. */
export interface ChordRange {
  readonly from: number;
  readonly to: number;
}

export function chordsInView(view: Scene['view'], picture: Picture): ChordRange {
  return chordsBetween(view, picture, view.left(), view.right());
}

/** The same for the part of the view between two ticks. */
export function chordsBetween(view: Scene['view'], picture: Picture, left: number, right: number): ChordRange {
  const reach = 2 * picture.margin + 12 / view.scale();
  const { played } = picture.chords;
  return { from: firstAt(played, left - reach), to: firstAt(played, right + reach) };
}

function drawScale(scene: InLane, picture: Picture): void {
  const { ctx, view, colors } = scene;
  const reach = laneReach(picture);
  ctx.textAlign = 'right';
  ctx.textBaseline = 'middle';
  // In a low lane there is no room for all the numbers.
  const { half } = laneScale(scene.frame);
  const steps = half < LABEL ? [0] : half < 2 * LABEL ? [-reach, 0, reach] : [-reach, -reach / 2, 0, reach / 2, reach];
  for (const ms of steps) {
    const y = Math.round(laneY(scene.frame, picture, ms)) + 0.5;
    ctx.fillStyle = ms === 0 ? colors.onLine : faint(colors.line, 0.8);
    ctx.fillRect(KEYS_WIDTH, y - 0.5, view.notesWidth(), 1);
    ctx.font = `11px ${NUMBER_FONT}`;
    ctx.fillStyle = ms === 0 ? colors.soft : ms < 0 ? colors.early : colors.late;
    ctx.fillText(ms === 0 ? '0 ms' : String(Math.abs(ms)), KEYS_WIDTH - 6, y);
  }
  if (half < LABEL) return;
  ctx.font = `12px ${TEXT_FONT}`;
  ctx.textAlign = 'left';
  ctx.fillStyle = colors.early;
  ctx.fillText('early', 8, laneY(scene.frame, picture, -reach * 0.75));
  ctx.fillStyle = colors.late;
  ctx.fillText('late', 8, laneY(scene.frame, picture, reach * 0.75));
}

/** Tolerance and reach in ms, where they are the same everywhere; null where they are not set. */
export interface Bands {
  readonly tolerance: number | null;
  readonly reach: number | null;
}

/** The bands of a treatment: the part's, or that of the own settings that are open. */
export function laneBands(picture: Picture, { quantize }: Pick<Treatment, 'quantize'>): Bands {
  const { tolerance, reach } = quantize;
  const shown = (limit: typeof reach) =>
    limit === null || limit.value === 0
      ? null
      : limit.unit === 'ms'
        ? limit.value
        : limit.unit === 'ticks'
          ? limit.value * picture.msPerTick
          : (limit.value / 100) * picture.halfGapMs;
  return { tolerance: quantize.on ? shown(tolerance) : null, reach: quantize.on ? shown(reach) : null };
}

/** What is close enough lies in a band around the line; what is too far, outside of another. */
function drawBands(scene: InLane, picture: Picture, { tolerance, reach }: Bands): void {
  const { ctx, view, colors } = scene;
  if (tolerance !== null) {
    const from = laneY(scene.frame, picture, -tolerance);
    ctx.fillStyle = faint(colors.onLine, 0.18);
    ctx.fillRect(KEYS_WIDTH, from, view.notesWidth(), laneY(scene.frame, picture, tolerance) - from);
  }
  if (reach !== null) {
    ctx.fillStyle = faint(colors.soft, 0.16);
    const most = laneReach(picture);
    for (const side of [-1, 1]) {
      const [a, b] = [side * reach, side * most * 1.2]
        .map((ms) => laneY(scene.frame, picture, ms))
        .sort((x, y) => x - y);
      ctx.fillRect(KEYS_WIDTH, a, view.notesWidth(), b - a);
    }
  }
}

/** The steady lean of what is shown, dashed. */
function drawMedian({ ctx, view, colors, frame }: InLane, picture: Picture, corrected: boolean): void {
  const ms = corrected ? picture.nowMs : picture.medianMs;
  if (Math.abs(ms) < 3) return;
  const y = Math.round(laneY(frame, picture, ms)) + 0.5;
  ctx.strokeStyle = ms < 0 ? colors.early : colors.late;
  ctx.setLineDash([6, 4]);
  ctx.beginPath();
  ctx.moveTo(KEYS_WIDTH, y);
  ctx.lineTo(view.width(), y);
  ctx.stroke();
  ctx.setLineDash([]);
}

/** Where a player's time was who is followed: the line that the offsets are around. */
function drawDrift({ ctx, view, colors, frame }: InLane, picture: Picture, { from, to }: ChordRange): boolean {
  const { drift, played } = picture.chords;
  let drawn = false;
  ctx.beginPath();
  for (let c = Math.max(0, from - 1); c < Math.min(played.length, to + 1); c++) {
    if (Number.isNaN(drift[c])) continue;
    const [x, y] = [view.x(played[c]), laneY(frame, picture, drift[c])];
    if (drawn) ctx.lineTo(x, y);
    else ctx.moveTo(x, y);
    drawn = true;
  }
  if (!drawn) return false;
  ctx.strokeStyle = faint(colors.action, 0.55);
  ctx.lineWidth = 2.5;
  ctx.lineJoin = 'round';
  ctx.stroke();
  ctx.lineWidth = 1;
  return true;
}

function drawStems(scene: InLane, picture: Picture, { from, to }: ChordRange): void {
  const { ctx, view, colors } = scene;
  const { played, now, before, after } = picture.chords;
  ctx.strokeStyle = faint(colors.soft, 0.5);
  ctx.beginPath();
  const cells = new Cells(view.width(), view.height());
  const across = view.across();
  const height = heightsIn(scene.frame, picture);
  for (let c = from; c < to; c++) {
    if (before[c] === after[c]) continue;
    const [x, y] = [across(played[c]), height(before[c])];
    if (!cells.first(x, y)) continue;
    ctx.moveTo(x, y);
    ctx.lineTo(across(now[c]), height(after[c]));
  }
  ctx.stroke();
}

function drawMarks(
  scene: InLane,
  picture: Picture,
  { from, to }: ChordRange,
  which: 'played' | 'corrected',
  hollow: boolean,
): void {
  const { ctx, view, colors } = scene;
  const { chords } = picture;
  const isPlayed = which === 'played';
  const places = isPlayed ? chords.played : chords.now;
  const offsets = isPlayed ? chords.before : chords.after;
  const dense = to - from > DENSE;
  const across = view.across();
  const height = heightsIn(scene.frame, picture);
  for (const lean of [LEAN.onLine, LEAN.early, LEAN.late]) {
    ctx.fillStyle =
      dense && hollow ? faint(leanColor(scene, lean), 0.4) : hollow ? colors.paper : leanColor(scene, lean);
    ctx.strokeStyle = leanColor(scene, lean);
    ctx.beginPath();
    const cells = new Cells(view.width(), view.height());
    for (let c = from; c < to; c++) {
      if (leanOf(offsets[c]) !== lean) continue;
      // On one spot the solid mark says it all.
      if (hollow && chords.before[c] === chords.after[c]) continue;
      const [x, y] = [across(places[c]), height(offsets[c])];
      if (cells.first(x, y) && !dense) addMark(ctx, x, y, lean);
    }
    if (dense) cells.bars((x, y, w, h) => ctx.fillRect(x - 0.5, y - 0.5, w + 1, h + 1));
    ctx.fill();
    if (hollow && !dense) ctx.stroke();
  }
}

/** Early marks point left, late ones right, those on the line are round. */
function addMark(ctx: CanvasRenderingContext2D, x: number, y: number, lean: number): void {
  if (lean === LEAN.onLine) {
    ctx.moveTo(x + 3.5, y);
    ctx.arc(x, y, 3.5, 0, 2 * Math.PI);
    return;
  }
  const side = lean === LEAN.early ? -1 : 1;
  ctx.moveTo(x + 5 * side, y);
  ctx.lineTo(x - 3.5 * side, y - 4.5);
  ctx.lineTo(x - 3.5 * side, y + 4.5);
  ctx.closePath();
}

/** Width of a histogram's bins for a lane of ±reach: a round number of ms, the same before and after. */
export function binMs(reach: number): number {
  return [1, 2, 5, 10, 20].find((w) => (2 * reach) / w <= 32) ?? 50;
}

/** How many offsets lie in each bin; the middle one holds 0, so that what is on its line is in one. */
export function binOffsets(offsets: readonly number[] | Float64Array, reach: number): number[] {
  const width = binMs(reach);
  const half = Math.ceil(reach / width);
  const counts = new Array<number>(2 * half + 1).fill(0);
  inBlocks(offsets.length, (from, to) => {
    for (let i = from; i < to; i++) {
      const bin = Math.floor(offsets[i] / width + 0.5) + half;
      if (bin >= 0 && bin < counts.length) counts[bin]++;
    }
  });
  return counts;
}

const histograms = new WeakMap<ChordFacts, { before: number[]; after: number[] }>();

function histogramOf(picture: Picture): { before: number[]; after: number[] } {
  const { chords } = picture;
  let known = histograms.get(chords);
  if (!known) {
    const reach = laneReach(picture);
    known = {
      before: binOffsets(chords.before, reach),
      after: binOffsets(chords.after, reach),
    };
    histograms.set(chords, known);
  }
  return known;
}

function drawHistogram(scene: InLane, picture: Picture, corrected: boolean): void {
  const { ctx, view, colors } = scene;
  const reach = laneReach(picture);
  const width = binMs(reach);
  const { before, after } = histogramOf(picture);
  const most = Math.max(1, ...before, ...(corrected ? after : []));
  const right = view.width() - 2;
  const half = (before.length - 1) / 2;
  const height = laneY(scene.frame, picture, width / 2) - laneY(scene.frame, picture, -width / 2);
  ctx.fillStyle = faint(colors.paper, 0.75);
  ctx.fillRect(right - HISTOGRAM_WIDTH - 6, scene.frame.top + 1, HISTOGRAM_WIDTH + 8, scene.frame.height);
  before.forEach((was, bin) => {
    const ms = (bin - half) * width;
    if (Math.abs(ms) > reach) return;
    const y = laneY(scene.frame, picture, ms) - height / 2;
    const color = leanColor(scene, leanOf(ms));
    const solid = ((corrected ? after[bin] : was) / most) * HISTOGRAM_WIDTH;
    ctx.fillStyle = color;
    ctx.fillRect(right - solid, y + 0.5, solid, Math.max(1, height - 1));
    if (!corrected || was === 0) return;
    const hollow = (was / most) * HISTOGRAM_WIDTH;
    ctx.strokeStyle = color;
    ctx.strokeRect(right - hollow, y + 1, hollow, Math.max(1, height - 2));
  });
}
