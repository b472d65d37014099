import type { LiveNote, LivePlaying } from './live-take';
import { clipped, sideLabel, type Scene } from '../kit/draw';
import { KEYS_WIDTH, RULER_HEIGHT } from '../kit/viewport';

/** At the foot of the roll: the pedals' strokes, and over them the curve of the pitch wheel. */
const PEDAL = { height: 5, up: 8 };
const BEND = { half: 14, up: 30 };

/** Notes, pedals and bends while they are played. @param now the playhead, in ticks: what is held reaches up to it */
export function drawLive(scene: Scene, { notes, pedals, bends }: LivePlaying, now: number): void {
  const { ctx, view, colors } = scene;
  const foot = view.rollBottom();
  ctx.fillStyle = ctx.strokeStyle = colors.action;
  if (pedals.length > 0) sideLabel(ctx, 'pedal', foot - PEDAL.up + PEDAL.height / 2);
  if (bends.length > 0) sideLabel(ctx, 'bend', foot - BEND.up);
  clipped(ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
    for (const note of notes) bar(scene, note, now, view.y(note.pitch) + 2, Math.max(2, view.rowHeight() - 4));
    for (const pedal of pedals) bar(scene, pedal, now, foot - PEDAL.up, PEDAL.height);
    if (bends.length === 0) return;
    ctx.lineWidth = 1.5;
    ctx.beginPath();
    bends.forEach(({ at, value }, i) => {
      const y = foot - BEND.up - value * BEND.half;
      // It stays where it is until it is moved.
      if (i > 0) ctx.lineTo(view.x(at), foot - BEND.up - bends[i - 1].value * BEND.half);
      ctx[i > 0 ? 'lineTo' : 'moveTo'](view.x(at), y);
    });
    ctx.stroke();
    ctx.lineWidth = 1;
  });
}

function bar(
  { ctx, view }: Scene,
  { start, end }: Pick<LiveNote, 'start' | 'end'>,
  now: number,
  y: number,
  height: number,
): void {
  const x = view.x(start);
  const w = Math.max(2, ((end ?? Math.max(now, start)) - start) * view.scale());
  if (x <= view.width() && x + w >= KEYS_WIDTH) ctx.fillRect(x, y, w, height);
}
