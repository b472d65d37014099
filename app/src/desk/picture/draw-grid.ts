import type { Lines } from '@early-sparrow/core/grid';
import { percussionName } from '@early-sparrow/core/sound';
import type { MeterMap } from '@early-sparrow/core/time';
import { pitchName } from '../../common/format';
import { clipped, faint, NUMBER_FONT, sideLabel, TEXT_FONT, type Scene } from '../kit/draw';
import type { SwingHandle } from './swing-handles';
import { BARS_TOP, KEYS_WIDTH, LOOP_HEIGHT, RULER_HEIGHT } from '../kit/viewport';

const BLACK_KEYS = new Set([1, 3, 6, 8, 10]);
/** Grid lines closer together than this many px are not drawn. */
export const CLOSEST = 7;
/** Middle of the numbers in the ruler. */
const TEXT_Y = BARS_TOP + 9;

/** Rows, keys, bars, beats and the real grid lines. */
export function drawGrid(
  scene: Scene,
  meter: MeterMap,
  lines: Lines | null,
  drums: boolean,
  handles: readonly SwingHandle[] = [],
): void {
  const { ctx, view, colors } = scene;
  ctx.clearRect(0, 0, view.width(), view.height());
  clipped(ctx, 0, RULER_HEIGHT, view.width(), view.rollHeight(), () => drawRows(scene, drums));
  clipped(ctx, KEYS_WIDTH, 0, view.notesWidth(), view.height(), () => {
    if (lines) drawLines(scene, lines);
    drawBars(scene, meter);
    drawHandles(scene, handles);
  });
  ctx.fillStyle = colors.soft;
  sideLabel(ctx, 'loop', LOOP_HEIGHT / 2);
  if (handles.length > 0) sideLabel(ctx, 'swing', RULER_HEIGHT - 8);
  ctx.fillStyle = faint(colors.line, 0.7);
  for (const y of [LOOP_HEIGHT, BARS_TOP]) ctx.fillRect(0, y, view.width(), 1);
  ctx.fillStyle = colors.line;
  ctx.fillRect(0, RULER_HEIGHT - 1, view.width(), 1);
  for (const { id } of view.lanes()) ctx.fillRect(0, view.frameOf(id).top, view.width(), 1);
}

function drawRows({ ctx, view, colors }: Scene, drums: boolean): void {
  const row = view.rowHeight();
  const pitches = view.pitches();
  const first = Math.min(pitches.length - 1, Math.floor(view.topRow()));
  const last = Math.max(0, Math.floor(view.topRow() - view.rollHeight() / row));
  ctx.textBaseline = 'middle';
  ctx.textAlign = 'right';
  ctx.font = `12px ${drums ? TEXT_FONT : NUMBER_FONT}`;
  for (let index = first; index >= last; index--) {
    const pitch = pitches[index];
    const y = view.y(pitch);
    if (drums ? index % 2 === 0 : BLACK_KEYS.has(pitch % 12)) {
      ctx.fillStyle = faint(colors.raised, 0.7);
      ctx.fillRect(KEYS_WIDTH, y, view.notesWidth(), row);
    }
    const isC = pitch % 12 === 0;
    if (isC && !drums) {
      ctx.fillStyle = colors.line;
      ctx.fillRect(KEYS_WIDTH, y + row - 0.5, view.notesWidth(), 1);
    }
    const named = drums ? row >= 11 : isC || (row >= 13 && !BLACK_KEYS.has(pitch % 12));
    if (!named) continue;
    ctx.fillStyle = isC || drums ? colors.ink : colors.soft;
    const text = drums ? percussionName(pitch).replace('hi-hat', 'hat') : pitchName(pitch);
    ctx.fillText(text, KEYS_WIDTH - 6, y + row / 2 + 0.5, KEYS_WIDTH - 8);
  }
}

/** A small handle on each off-beat line that can be dragged to another swing. */
function drawHandles({ ctx, view, colors }: Scene, handles: readonly SwingHandle[]): void {
  const y = RULER_HEIGHT - 7;
  ctx.fillStyle = colors.paper;
  ctx.strokeStyle = colors.action;
  ctx.beginPath();
  for (const { line } of handles) {
    const x = Math.round(view.x(line)) + 0.5;
    ctx.moveTo(x - 4, y);
    ctx.lineTo(x, y - 4);
    ctx.lineTo(x + 4, y);
    ctx.lineTo(x, y + 4);
    ctx.closePath();
  }
  ctx.fill();
  ctx.stroke();
}

function drawLines({ ctx, view, colors }: Scene, lines: Lines): void {
  const from = Math.max(0, view.left());
  const gap = lines.gapAt(from);
  if (gap * view.scale() < CLOSEST) return;
  ctx.fillStyle = faint(colors.line, 0.6);
  for (const line of lines.between(from, view.right())) {
    ctx.fillRect(Math.round(view.x(line)), RULER_HEIGHT, 1, view.height() - RULER_HEIGHT);
  }
}

function drawBars({ ctx, view, colors }: Scene, meter: MeterMap): void {
  ctx.textBaseline = 'middle';
  ctx.textAlign = 'left';
  let lastLabel = -Infinity;
  for (const bar of meter.bars(view.left(), view.right(), CLOSEST / view.scale())) {
    const { beatTicks, numerator } = meter.pieceAt(bar);
    const x = Math.round(view.x(bar));
    const beatWidth = beatTicks * view.scale();
    ctx.fillStyle = faint(colors.soft, 0.55);
    ctx.fillRect(x, BARS_TOP, 1, view.height());
    const { bar: number } = meter.toBarBeat(bar);
    if (x - lastLabel > 34) {
      ctx.font = `600 13px ${NUMBER_FONT}`;
      ctx.fillStyle = colors.ink;
      ctx.fillText(String(number), x + 4, TEXT_Y);
      lastLabel = x;
    }
    for (let beat = 1; beat < numerator && beatWidth >= CLOSEST; beat++) {
      const at = Math.round(view.x(bar + beat * beatTicks));
      ctx.fillStyle = faint(colors.soft, 0.28);
      ctx.fillRect(at, RULER_HEIGHT, 1, view.height() - RULER_HEIGHT);
      if (beatWidth < 48) continue;
      ctx.font = `11px ${NUMBER_FONT}`;
      ctx.fillStyle = colors.soft;
      ctx.fillText(`${number}.${beat + 1}`, at + 4, TEXT_Y);
    }
  }
}
